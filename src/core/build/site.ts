import { posix } from 'node:path';
import { externalEntry } from '../config/externals.js';
import type { FileTable } from '../files/file-table.js';
import type { OutputRecord } from '../outputs/record.js';
import { isPage } from '../languages/formats.js';
import { ClaimIndex, claimIndexOf, describeClaim, matchTest } from '../plan/claims.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Plan } from '../plan/plan.js';
import type { FileReferences } from '../languages/references/index.js';
import type { EmittedOutputs, PipelineMemo } from './memo.js';

/** The possible targets of references: the outputs of a plan, and other files in their folders. */
export class Site {
  /** Changes when a reference of an unchanged file may resolve differently. */
  version = 0;
  /** Paths of missing files that references lead to and that no pipeline writes. */
  readonly consulted = new Set<string>();
  #plan: Plan | undefined;
  /** The claims of all pipelines. */
  #claims = new ClaimIndex([]);
  #hasCollapsedPages = false;
  /** Specifiers that steps leave to the page. */
  #externals: readonly (readonly string[])[] = [];
  /** The exports and import maps of outputs, and the same as text for comparison. */
  readonly #offers = new Map<string, { readonly references: FileReferences; readonly text: string }>();

  constructor(
    private readonly files: FileTable,
    private readonly record: OutputRecord,
  ) {}

  /** Sets the plan, with the memos of its pipelines. */
  setPlan(plan: Plan, memos: ReadonlyMap<string, PipelineMemo>): void {
    if (plan === this.#plan) return;
    this.#plan = plan;
    this.#claims = claimIndexOf(plan.pipelines);
    this.#externals = plan.pipelines.flatMap(({ steps }) =>
      steps.map(({ definition, options }) => definition.externals?.(options) ?? []),
    );
    this.#hasCollapsedPages = plan.pipelines.some(collapsesPages);
    for (const path of this.#offers.keys()) if (this.writerOf(path) === undefined) this.#offers.delete(path);
    for (const { emitted } of memos.values()) for (const one of emitted.values()) this.note(one);
    this.version++;
  }

  /** True if a step changes white space in pages, although style sheets may show it. */
  get hasCollapsedPages(): boolean {
    return this.#hasCollapsedPages;
  }

  get settings(): Plan['site'] {
    return this.#plan!.site;
  }

  /** Records the names and exports of a file. */
  note({ outputs: [output], references }: EmittedOutputs): void {
    if (!output) return;
    const known = this.#offers.get(output.path);
    if (known?.references === references) return;
    const { exports, stars, passedOn, importMap, notModule } = references ?? {};
    const text = JSON.stringify([exports, stars, passedOn, importMap, notModule]);
    if (known?.text !== text) this.version++;
    if (references) this.#offers.set(output.path, { references, text });
    else this.#offers.delete(output.path);
  }

  /** The pipeline that writes a path. */
  writerOf(path: string): string | undefined {
    return this.#claims.writerOf(path);
  }

  /** Reports whether the plan writes a path. */
  isOutput(path: string): boolean {
    return this.#claims.ownerOf(path) !== undefined;
  }

  /** Reports whether a file exists that the tool neither writes nor has written before. */
  isOnDisk(path: string): boolean {
    if (path.startsWith('../')) return false;
    this.consulted.add(path);
    return !this.record.outputs.has(path) && this.files.exists(path);
  }

  /** The exports of a module among the outputs, if known. */
  offerOf(path: string): FileReferences | undefined {
    return this.#offers.get(path)?.references;
  }

  /** Reports whether an import map of a page defines a name, or the project leaves it to the page (HTML, "resolve a module specifier"). */
  isMapped(name: string): boolean {
    if (this.#externals.some((entries) => externalEntry(entries, name) !== undefined)) return true;
    for (const { references } of this.#offers.values())
      if (references.importMap?.some((key) => key === name || (key.endsWith('/') && name.startsWith(key)))) return true;
    return false;
  }

  /** The pipelines that write pages. */
  pageWriters(): Set<string> {
    return this.#claims.writersMatching('**/*.{html,htm}');
  }

  /** Outputs that may have been meant by a path: of the same name elsewhere, or with a near name in the same folder. */
  candidatesFor(path: string): { readonly sameName: readonly string[]; readonly inFolder: readonly string[] } {
    const outputs = [...this.#claims.paths];
    return {
      sameName: outputs.filter((one) => posix.basename(one) === posix.basename(path)),
      inFolder: outputs.filter((one) => posix.dirname(one) === posix.dirname(path)),
    };
  }
}

/** Reports whether a pipeline changes white space in pages. */
function collapsesPages({ to, claims, steps }: PlannedPipeline): boolean {
  const pages = claims.map((claim) => posix.relative(to, describeClaim(claim))).filter(isPage);
  return steps.some(
    ({ definition, options, match }) =>
      definition.assumesCollapsedSpace?.(options) === true && pages.some(matchTest(match)),
  );
}
