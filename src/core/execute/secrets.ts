import type { Asset } from '../assets/asset.js';
import type { StepEnvironment } from '../assets/context.js';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';

/** Values shorter than this are not searched for: they are everywhere. */
const minLength = 4;

/** What stands for a secret value in messages. */
const mask = '•••';

/** The values of secret constants: they are kept out of outputs and messages. */
export class Secrets {
  readonly #values: readonly (readonly [name: string, value: string])[];

  constructor({ secrets }: Pick<StepEnvironment, 'secrets'>) {
    this.#values = secrets
      .map(({ name, variable }) => [name, process.env[variable] ?? ''] as const)
      .filter(([, value]) => value.length >= minLength);
  }

  /** True if there are none to look for. */
  get isEmpty(): boolean {
    return this.#values.length === 0;
  }

  /** A diagnostic for an asset that contains one of the values. */
  findIn({ bytes, path, origins: [file] }: Pick<Asset, 'bytes' | 'path' | 'origins'>): Diagnostic | undefined {
    const buffer = Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);
    const name = this.#values.find(([, value]) => buffer.includes(value))?.[0];
    if (name === undefined) return undefined;
    return diagnostic('secret-written', { name, path }, file === undefined ? undefined : { file });
  }

  masked(text: string): string {
    return this.#values.reduce((result, [, value]) => result.replaceAll(value, mask), text);
  }

  /** A diagnostic whose texts have no values. */
  maskedDiagnostic(one: Diagnostic): Diagnostic {
    if (this.isEmpty) return one;
    const { message, hint, frame } = one;
    return {
      ...one,
      message: this.masked(message),
      hint: this.masked(hint),
      ...(frame && { frame: { ...frame, lines: frame.lines.map((line) => this.masked(line)) } }),
    };
  }
}
