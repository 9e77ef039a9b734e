import { diagnostic, PassingError } from '../../diagnostics/index.js';
import { describeEnd, startCompiler, type CompilerChild } from './child.js';
import {
  canonicalizeResponse,
  loadResponse,
  readOutbound,
  type Answer,
  type LoadedSheet,
  type LogEvent,
  type Outbound,
  type Span,
} from './messages.js';
import { packet, PacketReader } from './packets.js';

/** The requests that the compiler makes while it compiles a sheet. */
export interface SheetHost {
  /** The path of the style sheet for messages. */
  readonly file?: string;
  /**
   * Resolves the URL of a sheet that another one loads; undefined if there is none.
   *
   * @param from the importing sheet, if the compiler sends it
   * @throws Error with a sentence for the user
   */
  canonicalize(url: string, fromImport: boolean, from: string | undefined): string | undefined;
  load(url: string): LoadedSheet | undefined;
  hear(event: LogEvent): void;
}

/** The result of compiling a style sheet. */
export interface CompiledSheet {
  readonly css: string;
  /** The source map as JSON; empty if none was requested. */
  readonly sourceMap: string;
}

/** A sheet cannot be compiled. */
export class SheetError extends Error {
  constructor(
    message: string,
    readonly span: Span,
  ) {
    super(message);
  }
}

/**
 * The time that an abandoned compilation may continue, in milliseconds. The compiler cannot cancel a compilation, and
 * endless ones block others: after this time, its process is terminated.
 */
const abandonedMs = 300;

interface Compilation {
  readonly host: SheetHost;
  readonly done: (sheet: CompiledSheet | undefined) => void;
  readonly failed: (reason: Error) => void;
  isWanted: boolean;
}

/** The maximum length of the compiler's error output that is stored, in characters. */
const longestComplaint = 500;

/** A process of the compiler, from its start to its end. */
export class Connection {
  readonly #child: CompilerChild;
  readonly #compilations = new Map<number, Compilation>();
  readonly #ended: Promise<void>;
  #last = 0;
  #complaint = '';
  /** True if the process has ended. */
  hasEnded = false;

  /** @throws DiagnosticError if there is no compiler for this system */
  constructor() {
    try {
      this.#child = startCompiler();
    } catch (error) {
      throw compilerEnded(error instanceof Error ? error.message : String(error));
    }
    const { process: child, stdin, stdout, stderr } = this.#child;
    const reader = new PacketReader((compilation, message) => this.#hear(compilation, message));
    stdout.on('data', (piece: Buffer) => reader.take(piece));
    stderr
      .setEncoding('utf8')
      .on('data', (text: string) => (this.#complaint = (this.#complaint + text).slice(-longestComplaint)));
    // A failure to send is reported when the process ends.
    stdin.on('error', () => undefined);
    this.#ended = new Promise((over) => {
      child.once('error', (error) => over(this.#end(error.message)));
      // Its output may still arrive; new sheets go to another process.
      child.once('exit', () => (this.hasEnded = true));
      child.once('close', (code, signal) => over(this.#end(describeEnd(code, signal))));
    });
  }

  /**
   * Compiles a sheet.
   *
   * @param request from `compileRequest`
   * @param limit the time limit in milliseconds
   * @returns undefined if the process was terminated because of another sheet
   * @throws SheetError if the sheet has an error
   * @throws DiagnosticError if the process ended, or the sheet exceeded the time limit
   */
  async compile(
    request: Uint8Array,
    host: SheetHost,
    signal: AbortSignal,
    limit: number,
  ): Promise<CompiledSheet | undefined> {
    // Numbers restart when the process is idle, so that they stay small.
    this.#last = this.#compilations.size === 0 ? 1 : this.#last + 1;
    const number = this.#last;
    let abandon: () => void = () => undefined;
    let timer: NodeJS.Timeout | undefined;
    const compiled = new Promise<CompiledSheet | undefined>((done, failed) => {
      const compilation = { host, done, failed, isWanted: true };
      this.#compilations.set(number, compilation);
      abandon = () => this.#abandon(number, compilation, signal);
      signal.addEventListener('abort', abandon, { once: true });
      timer = setTimeout(() => this.#timeOut(number, limit), limit).unref();
      this.#send(number, request);
    });
    try {
      return await compiled;
    } finally {
      clearTimeout(timer);
      signal.removeEventListener('abort', abandon);
    }
  }

  /** Kills the process immediately: it has no state to lose. */
  async close(): Promise<void> {
    this.#child.kill();
    await this.#ended;
  }

  #abandon(number: number, compilation: Compilation, signal: AbortSignal): void {
    compilation.isWanted = false;
    compilation.failed(signal.reason as Error);
    setTimeout(() => {
      if (this.#compilations.get(number) === compilation) this.#giveUp();
    }, abandonedMs).unref();
  }

  #timeOut(number: number, limit: number): void {
    const compilation = this.#compilations.get(number);
    if (!compilation?.isWanted) return;
    this.#compilations.delete(number);
    const { file } = compilation.host;
    const place = file === undefined ? undefined : { file };
    compilation.failed(
      new PassingError(diagnostic('compiler-slow', { language: 'Sass', seconds: limit / 1000 }, place)),
    );
    this.#giveUp();
  }

  /** Ends the process for a sheet that does not end; the others are compiled by another one. */
  #giveUp(): void {
    this.hasEnded = true;
    for (const { done } of this.#compilations.values()) done(undefined);
    this.#compilations.clear();
    this.#child.kill();
  }

  #send(compilation: number, message: Uint8Array): void {
    this.#child.stdin.write(packet(compilation, message));
  }

  #hear(number: number, bytes: Uint8Array): void {
    const message = readOutbound(bytes);
    // The compiler ends after that, and all that is at work with it.
    if (!message || message.is === 'refusal') this.#complaint = message?.message ?? 'a message that is not known';
    const compilation = this.#compilations.get(number);
    if (!message) this.#child.kill();
    else if (compilation && message.is !== 'refusal') {
      try {
        this.#act(number, compilation, message);
      } catch (error) {
        compilation.failed(error as Error);
      }
    }
  }

  #act(
    number: number,
    { host, done, failed, isWanted }: Compilation,
    message: Exclude<Outbound, { is: 'refusal' }>,
  ): void {
    switch (message.is) {
      case 'said':
        return host.hear(message.event);
      case 'canonicalize': {
        const { id, url, fromImport, from } = message;
        const find = (): string | undefined => host.canonicalize(url, fromImport, from === '' ? undefined : from);
        return this.#send(number, canonicalizeResponse(id, isWanted ? attempt(find) : unwanted));
      }
      case 'load': {
        const answer = isWanted ? attempt(() => host.load(message.url)) : unwanted;
        return this.#send(number, loadResponse(message.id, answer));
      }
      case 'compiled':
        this.#compilations.delete(number);
        return done(message);
      case 'failed':
        this.#compilations.delete(number);
        return failed(new SheetError(message.message, message.span));
    }
  }

  #end(how: string): void {
    this.hasEnded = true;
    const complaint = this.#complaint.trim().replace(/\.$/, '');
    const reason = complaint === '' ? how : `${how} and said: ${complaint}`;
    for (const { host, failed } of this.#compilations.values())
      failed(compilerEnded(reason, this.#child.process.pid === undefined ? undefined : host.file));
    this.#compilations.clear();
  }
}

/** The response to requests of abandoned sheets, which ends them. */
const unwanted = { problem: 'this is not wanted any more' };

/**
 * No reason that the next build should fail.
 *
 * @param file the sheet that was at work; undefined if the compiler has not come so far
 */
function compilerEnded(reason: string, file?: string): PassingError {
  const place = file === undefined ? undefined : { file };
  return new PassingError(diagnostic('compiler-ended', { language: 'Sass', reason }, place));
}

function attempt<Found>(find: () => Found | undefined): Answer<Found> {
  try {
    return { found: find() };
  } catch (error) {
    return { problem: error instanceof Error ? error.message : String(error) };
  }
}
