import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { somePaths } from '../explain/some-paths.js';
import type { JobExecutor } from '../execute/job-executor.js';
import {
  planPublish,
  publish,
  type OutputContent,
  type OutputRoot,
  type OutputState,
  type Published,
  type PublishPlan,
} from '../outputs/publish.js';
import type { OutputFile } from './memo.js';

/** Copies from this size on, in bytes, are made file by file, without their bytes in memory. */
const largeCopy = 1 << 20;

/** The published outputs of a pipeline, current at a revision of the files. */
export interface Publication {
  readonly list: readonly OutputFile[];
  readonly revision: number;
}

/** The result of publishing a pipeline, with the outputs that had to be written. */
export interface PipelinePublication extends Published {
  readonly pending: readonly OutputFile[];
  /** Says so when outputs were written again that another process had replaced. */
  readonly restored: Diagnostic | undefined;
}

/** Publishes the outputs of pipelines, comparing with the disk only those that may have changed. */
export class Publisher {
  /** @param published the outputs of each pipeline that this process has published */
  constructor(
    private readonly executor: JobExecutor,
    private readonly outputRoot: OutputRoot,
    private readonly published: Map<string, Publication>,
  ) {}

  /**
   * Publishes the outputs of a pipeline.
   *
   * @returns undefined if bytes have to be written that are nowhere any more
   */
  async publish(
    name: string,
    outputs: readonly OutputFile[],
    isFresh: boolean,
  ): Promise<PipelinePublication | undefined> {
    const plan = planPublish(name, isFresh ? outputs : this.#unpublished(name, outputs), outputs, this.outputRoot);
    if (!isFresh && !(await this.#hasContents(plan))) return undefined;
    const restored = this.#restored(name, plan.replacing);
    const result = publish(name, outputs, plan, this.outputRoot, (output) => this.#contentOf(output));
    return { ...result, pending: plan.pending, restored };
  }

  /** The outputs that this process has not published before, or that may have changed since. */
  #unpublished(name: string, outputs: readonly OutputFile[]): readonly OutputFile[] {
    const { published, outputRoot } = this;
    const before = published.get(name);
    if (before?.list.length !== outputs.length) return outputs;
    const invalidated = new Set(outputRoot.files.invalidatedSince(before.revision));
    const isInvalidated = [...invalidated].some((path) => outputRoot.record.outputs.get(path)?.pipeline === name);
    if (before.list === outputs && !isInvalidated) return [];
    const found: OutputFile[] = [];
    for (let at = 0; at < outputs.length; at++)
      if (outputs[at] !== before.list[at] || (isInvalidated && invalidated.has(outputs[at]!.path)))
        found.push(outputs[at]!);
    return found;
  }

  /** The outputs that this process has published, and that another process has written since. */
  #restored(name: string, replacing: readonly OutputFile[]): Diagnostic | undefined {
    const before = replacing.length === 0 ? undefined : this.published.get(name)?.list;
    const wasPublished = ({ path, hash }: OutputFile): boolean =>
      before?.some((one) => one.path === path && one.hash === hash) ?? false;
    const restored = replacing.filter(wasPublished).map(({ path }) => path);
    return restored.length === 0 ? undefined : diagnostic('outputs-restored', { outputs: somePaths(restored) });
  }

  /** Notes the outputs of a pipeline as published. */
  note(name: string, list: readonly OutputFile[], states: ReadonlyMap<string, OutputState>): void {
    const { published, outputRoot } = this;
    // Edited outputs are checked and reported in every build.
    if ([...states.values()].includes('preserved')) published.delete(name);
    else published.set(name, { list, revision: outputRoot.files.revision });
  }

  async #hasContents({ pending }: PublishPlan<OutputFile>): Promise<boolean> {
    if (pending.length === 0) return true;
    await this.executor.store();
    const { contents } = this.executor;
    return pending.every((output) => this.#sourceOf(output) !== undefined || contents.holds(output.hash));
  }

  /** The content of an output; that of a large copy is its source. */
  #contentOf(output: OutputFile): OutputContent {
    const source = this.#sourceOf(output);
    const isLarge = source !== undefined && output.bytes >= largeCopy;
    const bytes = isLarge ? undefined : this.executor.contents.get(output.hash, source);
    return bytes ?? { copyOf: source ?? output.origins[0]! };
  }

  /** The source of an output that is a copy. */
  #sourceOf({ hash, origins: [source, ...others] }: OutputFile): string | undefined {
    const { files } = this.outputRoot;
    return source !== undefined && others.length === 0 && files.state(source) === hash ? source : undefined;
  }
}
