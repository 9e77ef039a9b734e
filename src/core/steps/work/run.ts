import { posix } from 'node:path';
import type { Asset } from '../../assets/asset.js';
import type { Command, CommandResult, StepContext } from '../../assets/context.js';
import { diagnostic, PassingError } from '../../diagnostics/index.js';
import { commandWords } from '../../config/command-words.js';
import { literalPath } from '../../files/globs.js';
import { withExtension } from '../../languages/formats.js';

const defaultTimeLimit = 300;

/** How a command is run. */
export interface CommandSettings {
  readonly command: string | readonly string[];
  /** True for one run with all assets. */
  readonly gather?: boolean;
  readonly extension?: string;
  readonly reads?: string | readonly string[];
  /** Globs of files in the project that it writes by itself. */
  readonly writes?: string | readonly string[];
  readonly environment?: string | readonly string[];
  /** In seconds. */
  readonly timeLimit?: number;
  readonly log?: boolean;
}

/**
 * Runs a command for an asset, for all of them, or without any.
 *
 * @returns the assets that come out of it
 * @throws PassingError if the command fails: it may not fail again
 */
export async function runCommandOn(
  assets: readonly Asset[],
  options: CommandSettings,
  context: StepContext,
): Promise<readonly Asset[]> {
  const runner = new CommandRunner(options, context);
  const [first] = assets;
  if (options.gather === true) return runner.onAll(assets);
  return first ? [await runner.onOne(first)] : runner.onNone();
}

/**
 * Runs a command that gets no asset; its failure is part of the result.
 *
 * @returns also the command as the project file has it
 * @throws PassingError if there is no such program
 */
export async function runCommand(
  command: CommandSettings['command'],
  options: Omit<CommandSettings, 'command'>,
  context: StepContext,
): Promise<{ readonly result: CommandResult; readonly text: string }> {
  const runner = new CommandRunner({ ...options, command }, context);
  return { result: await runner.attempt({ isShown: false }, undefined), text: runner.text };
}

class CommandRunner {
  readonly #words: readonly string[];
  /** The command as the project file has it. */
  readonly text: string;

  constructor(
    private readonly options: CommandSettings,
    private readonly context: StepContext,
  ) {
    const { command, reads, environment } = options;
    this.#words = typeof command === 'string' ? commandWords(command)! : command;
    this.text = typeof command === 'string' ? command : command.join(' ');
    // They become part of the trace.
    for (const word of this.#words)
      if (isProjectPath(word) && context.exists(posix.normalize(word))) context.read(posix.normalize(word));
    for (const glob of texts(reads)) {
      const literal = literalPath(glob);
      const paths = literal === undefined ? context.list(glob) : context.exists(literal) ? [literal] : [];
      for (const path of paths) context.read(path);
    }
    for (const name of texts(environment)) context.env(name);
  }

  async onNone(): Promise<readonly Asset[]> {
    await this.#execute({ isShown: true }, undefined);
    return [];
  }

  async onOne(asset: Asset): Promise<Asset> {
    const { extension } = this.options;
    const path = extension === undefined ? asset.path : withExtension(asset.path, extension);
    const name = posix.basename(asset.path);
    const isFile = this.#has('{out}');
    const { output, files } = await this.#execute(
      {
        input: asset.bytes,
        ...(this.#has('{in}') && { files: new Map([[name, asset.bytes]]), inputPath: name }),
        ...(isFile && { outputPath: posix.basename(path) }),
        isShown: isFile,
      },
      asset.origins[0] ?? asset.path,
    );
    const bytes = isFile ? files.get(posix.basename(path)) : output;
    if (!bytes) return this.#fail(asset.origins[0]);
    const isUnchanged = path === asset.path && Buffer.from(bytes).equals(asset.bytes);
    return isUnchanged ? asset : { id: asset.id, path, bytes, origins: asset.origins, isPristine: false };
  }

  async onAll(assets: readonly Asset[]): Promise<readonly Asset[]> {
    const isFolder = this.#has('{out}');
    const { files } = await this.#execute(
      {
        ...(this.#has('{in}') && { files: new Map(assets.map(({ path, bytes }) => [path, bytes])), inputPath: '' }),
        ...(isFolder && { outputPath: '' }),
        isShown: true,
      },
      undefined,
    );
    if (!isFolder) return assets;
    if (files.size === 0) return this.#fail(undefined);
    const origins = [...new Set(assets.flatMap((asset) => asset.origins))];
    const before = new Map(assets.map((asset) => [asset.path, asset]));
    return [...files].map(([path, bytes]) => {
      const same = before.get(path);
      if (same && Buffer.from(bytes).equals(same.bytes)) return same;
      return { id: same?.id ?? path, path, bytes, origins, isPristine: false };
    });
  }

  #has(placeholder: string): boolean {
    return this.#words.some((word) => word.includes(placeholder));
  }

  async #execute(
    command: Partial<Command> & Pick<Command, 'isShown'>,
    file: string | undefined,
  ): Promise<CommandResult> {
    const result = await this.attempt(command, file);
    const { failure, lastLines } = result;
    if (!failure) {
      this.#trackWritten();
      return result;
    }
    const place = file === undefined ? undefined : { file };
    const parameters = { command: this.text, how: failure.how, lines: lastLines.join('\n') };
    throw new PassingError(diagnostic('command-failed', parameters, place));
  }

  /** What it has written becomes part of the trace, so that it is written again when it is gone. */
  #trackWritten(): void {
    for (const glob of texts(this.options.writes))
      if (this.context.trackWritten(glob).length === 0)
        this.context.report(diagnostic('command-wrote-nothing', { command: this.text, glob }));
  }

  async attempt(
    command: Partial<Command> & Pick<Command, 'isShown'>,
    file: string | undefined,
  ): Promise<CommandResult> {
    const { timeLimit = defaultTimeLimit, log: isLogged = false } = this.options;
    const environment = { ANVIL_PROFILE: this.context.settings.profile };
    const whole = { words: this.#words, input: new Uint8Array(), environment, timeLimit, isLogged, ...command };
    const result = await this.context.execute(whole);
    if (result.failure?.kind !== 'missing') return result;
    const parameters = { program: this.#words[0]!, command: this.text };
    throw new PassingError(diagnostic('command-missing', parameters, file === undefined ? undefined : { file }));
  }

  #fail(file: string | undefined): never {
    const place = file === undefined ? undefined : { file };
    throw new PassingError(diagnostic('command-no-output', { command: this.text }, place));
  }
}

const texts = (value: string | readonly string[] | undefined): readonly string[] => [value ?? []].flat();

/** Reports whether a word may name a file of the project. */
const isProjectPath = (word: string): boolean =>
  word !== '' && !posix.isAbsolute(word) && !/[\0{}\\]|^-/.test(word) && !posix.normalize(word).startsWith('..');
