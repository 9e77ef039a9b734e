import { posix } from 'node:path';
import { textOf, type Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { CheckerError, CheckerThread } from '../../checkers/checker-thread.js';
import type { CheckerName, CheckRequest, CheckResult, RawFinding } from '../../checkers/checker.js';
import { readFindings } from '../../checkers/formats.js';
import { fail, findingDiagnostic, LineIndex, PassingError, diagnostic, type Place } from '../../diagnostics/index.js';
import { contentHash } from '../../files/hash.js';
import { installedPackage } from '../../templates/project-package.js';
import { literalPath } from '../../files/globs.js';
import { decodeText } from '../../files/text.js';
import { moduleContents } from './module-contents.js';
import { runCommand } from './run.js';

/** What is checked, and with what. */
export interface CheckSettings {
  readonly with?: CheckerName;
  readonly project?: string;
  readonly run?: string | readonly string[];
  readonly findings?: string;
  readonly reads?: string | readonly string[];
  readonly environment?: string | readonly string[];
  readonly timeLimit?: number;
}

/**
 * Reports what a checker finds in assets, or in the project without any.
 *
 * @param holds whether errors keep the build from publishing anything
 * @throws DiagnosticError if the checker itself fails
 */
export async function checkAssets(
  assets: readonly Asset[],
  settings: CheckSettings,
  context: StepContext,
  holds: boolean,
): Promise<void> {
  const job = new CheckJob(assets, settings, context, holds);
  if (settings.with === undefined) return job.checkByCommand();
  return settings.with === 'types' ? job.checkTypes() : job.checkByPackage(settings.with);
}

class CheckJob {
  readonly #isAdvisory: boolean;

  constructor(
    private readonly assets: readonly Asset[],
    private readonly settings: CheckSettings,
    private readonly context: StepContext,
    holds: boolean,
  ) {
    this.#isAdvisory = !holds;
    for (const glob of [settings.reads ?? []].flat()) {
      const literal = literalPath(glob);
      for (const path of literal === undefined ? context.list(glob) : [literal]) context.read(path);
    }
  }

  async checkTypes(): Promise<void> {
    const { context } = this;
    for (const config of this.#projects()) {
      const [version = '', compiler] = this.#package('typescript', config) ?? [];
      const request = { root: context.root, package: compiler, files: [], config };
      const { findings, read } = await this.#ask('types', request, version);
      // A new file may be part of the project, or be what an import means.
      for (const kind of ['ts', 'tsx', 'mts', 'cts']) context.list(`**/*.${kind}`);
      for (const path of new Set(read.map((one) => this.#relative(one)))) this.#trace(path);
      this.#report('types', findings);
    }
  }

  /** The projects of TypeScript that the assets belong to. */
  #projects(): readonly string[] {
    const { context, settings } = this;
    const { project } = settings;
    if (project !== undefined) return context.exists(project) ? [project] : fail('check-project', { path: project });
    const folders = new Set(this.assets.map(({ origins: [origin] }) => posix.dirname(origin ?? '.')));
    const found = new Set<string>();
    for (const start of folders.size === 0 ? ['.'] : folders)
      for (let folder = start; ; folder = posix.dirname(folder)) {
        const path = posix.join(folder, 'tsconfig.json');
        if (context.exists(path)) found.add(path);
        if (context.exists(path) || folder === '.') break;
      }
    return found.size > 0 ? [...found] : fail('check-project', { path: 'tsconfig.json' });
  }

  /** Makes a file that a checker has read part of the trace; of packages, only their package.json. */
  #trace(path: string | undefined): void {
    const installed = path && /^(?:.*\/)?node_modules\/(?:@[^/]+\/)?[^/]+/.exec(path)?.[0];
    if (installed !== undefined && installed !== '') this.context.track(`${installed}/package.json`);
    else if (path !== undefined) this.context.track(path);
  }

  /** Checks each asset by a package of the project. */
  async checkByPackage(checker: 'eslint' | 'stylelint'): Promise<void> {
    const { context } = this;
    const [asset] = this.assets;
    if (!asset) return fail('step-without-sources', { step: `check: ${checker}` });
    const path = asset.origins[0] ?? asset.path;
    const [version, entry] =
      this.#package(checker, path) ?? fail('package-missing', { name: checker, kind: `\`check: ${checker}\`` });
    const parts = [version, ...this.#configuration(checker, path)];
    // What is installed decides which rules there are.
    for (const lock of ['package.json', 'package-lock.json']) context.read(lock);
    const request = { root: context.root, package: entry, files: [{ path, text: textOf(asset) }] };
    let result = await this.#ask(checker, request, contentHash(JSON.stringify(parts)));
    if (result.usesTypes === true) {
      const others = ['ts', 'tsx', 'mts', 'cts'].flatMap((kind) => context.list(`**/*.${kind}`));
      for (const one of ['tsconfig.json', ...others]) parts.push(contentHash(context.read(one) ?? new Uint8Array()));
      result = await this.#ask(checker, request, contentHash(JSON.stringify(parts)));
    }
    this.#report(checker, result.findings, asset);
  }

  /** The contents of the configuration files that apply to a file, and of the modules that they import. */
  #configuration(checker: 'eslint' | 'stylelint', file: string): string[] {
    const { context } = this;
    const found: string[] = [];
    for (let folder = posix.dirname(file); ; folder = posix.dirname(folder)) {
      for (const name of configurations[checker]) {
        const path = posix.join(folder, name);
        if (!context.exists(path)) continue;
        for (const [one, hash] of moduleContents(path, context)) found.push(one, hash);
      }
      if (folder === '.') return found;
    }
  }

  /** The version of an installed package with its entry point, absolute; undefined if it is not installed. */
  #package(name: string, from: string): readonly [version: string, entry: string] | undefined {
    const { context } = this;
    const installed = installedPackage(name, from, context);
    const entry = context.packageEntry(name, from);
    return installed && entry !== undefined ? [installed.hash, entry] : undefined;
  }

  async #ask(checker: CheckerName, request: CheckRequest, version: string): Promise<CheckResult> {
    const thread = await this.context.resource(`check ${checker}`, () => Promise.resolve(new CheckerThread(checker)));
    try {
      return await thread.check(request, version);
    } catch (error) {
      if (!(error instanceof CheckerError)) throw error;
      throw new PassingError(diagnostic('check-failed', { checker, message: error.message }));
    }
  }

  async checkByCommand(): Promise<void> {
    const { run: command, findings: format = 'lines' } = this.settings;
    if (command === undefined) return fail('check-nothing', {});
    const { result, text } = await runCommand(command, this.settings, this.context);
    const { output, failure, lastLines } = result;
    const lines = lastLines.join('\n');
    if (failure && failure.kind !== 'failed')
      throw new PassingError(diagnostic('command-failed', { command: text, how: failure.how, lines }));
    const written = new TextDecoder().decode(output);
    const found = this.#read(format === 'lines' ? `${written}\n${lines}` : written, format, text);
    // Checkers end with an exit code other than 0 when they find something.
    if (failure && found.length === 0)
      throw new PassingError(
        diagnostic('command-failed', { command: text, how: failure.how, lines: lines || written.trim() }),
      );
    this.#report(nameOf(text), found);
  }

  #read(output: string, format: string, command: string): readonly RawFinding[] {
    try {
      return readFindings(output, format);
    } catch (error) {
      if (!(error instanceof SyntaxError)) throw error;
      throw new PassingError(diagnostic('check-output', { command, format, message: error.message }));
    }
  }

  #report(checker: string, findings: readonly RawFinding[], asset?: Asset): void {
    for (const { rule, severity, message, url, ...at } of findings) {
      const place = this.#placeOf(at, asset);
      const hint = checker === 'types' ? importHint(rule, message) : undefined;
      const one = { checker, rule, severity, message, place, url, hint, isAdvisory: this.#isAdvisory };
      this.context.report(findingDiagnostic(one));
    }
  }

  #placeOf(
    { file, line, column = 1, endLine, endColumn }: Omit<RawFinding, 'severity' | 'message'>,
    asset?: Asset,
  ): Place | undefined {
    if (asset && line !== undefined) {
      const text = textOf(asset);
      const lines = LineIndex.of(text);
      const start = lines.offset(line, column);
      const end = endLine === undefined ? start + 1 : lines.offset(endLine, endColumn ?? column + 1);
      return this.context.place(asset, text, start, Math.max(end, start + 1));
    }
    const path = file === undefined ? undefined : this.#relative(file);
    if (path === undefined) return undefined;
    if (line === undefined || path.startsWith('../')) return { file: path };
    const bytes = this.context.read(path);
    const start = { line, column };
    const end =
      endLine === undefined ? { line, column: column + 1 } : { line: endLine, column: endColumn ?? column + 1 };
    return { file: path, ...(bytes && { text: decodeText(bytes, path) }), range: { start, end } };
  }

  /** A path relative to the project. */
  #relative(file: string): string {
    const path = file.replaceAll('\\', '/');
    return posix.isAbsolute(path) ? posix.relative(this.context.root, path) : posix.normalize(path);
  }
}

/** Advice for an import of a style sheet, text or template: this package declares them. */
const importHint = (rule: string | undefined, message: string): string | undefined =>
  /^TS(2307|2882)$/.test(rule ?? '') && /\.(css|scss|sass|less|txt|svg|html|md|hbs|pug)'/.test(message)
    ? 'Add "loyal-anvil/imports" to `types` in tsconfig.json: it declares what files are in linked scripts.'
    : undefined;

/** The names of configuration files. */
const configurations = {
  eslint: ['js', 'mjs', 'cjs', 'ts', 'mts', 'cts'].map((end) => `eslint.config.${end}`),
  stylelint: [
    ...['js', 'mjs', 'cjs', 'ts'].map((end) => `stylelint.config.${end}`),
    '.stylelintrc',
    ...['json', 'yaml', 'yml', 'js', 'mjs', 'cjs'].map((end) => `.stylelintrc.${end}`),
    '.stylelintignore',
  ],
};

/** The name of the checker that a command runs. */
function nameOf(command: string): string {
  const words = command.split(/\s+/);
  const word = words.find((one) => one !== '' && !/^(node|npx|npm|exec|--?\S*)$/.test(one)) ?? 'check';
  return (
    posix
      .basename(word)
      .replace(/\.[^.]*$/, '')
      .replace(/[^\w.-]/g, '') || 'check'
  );
}
