import { posix } from 'node:path';
import picomatch from 'picomatch';
import type { StepContext } from '../../assets/context.js';

/** What the package.json of a module says about it. */
interface Facts {
  readonly folder: string;
  readonly isModule: boolean;
  readonly hasSideEffects: (path: string) => boolean;
}

/** The facts about modules that are in the package.json files of their packages. */
export class PackageFacts {
  readonly #byFolder = new Map<string, Facts | undefined>();

  constructor(private readonly context: StepContext) {}

  /** Reports whether files without an extension of their own are ES modules (`type` of package.json; Node.js documentation, "Determining module system"). */
  isModulePackage(path: string): boolean {
    return this.#factsOf(posix.dirname(path))?.isModule ?? false;
  }

  /** Reports whether a module has to be evaluated even if nothing uses its exports (`sideEffects` of package.json). */
  hasSideEffects(path: string): boolean {
    return this.#factsOf(posix.dirname(path))?.hasSideEffects(path) ?? true;
  }

  /** The facts for a folder: those of the nearest package.json in it or above. */
  #factsOf(folder: string): Facts | undefined {
    if (this.#byFolder.has(folder)) return this.#byFolder.get(folder);
    const bytes = this.context.read(posix.join(folder, 'package.json'));
    const isTop = folder === '.' || folder.endsWith('..') || posix.basename(folder) === 'node_modules';
    const facts = bytes ? factsIn(folder, bytes) : isTop ? undefined : this.#factsOf(posix.dirname(folder));
    this.#byFolder.set(folder, facts);
    return facts;
  }
}

function factsIn(folder: string, bytes: Uint8Array): Facts | undefined {
  const manifest = parseJson<{ readonly type?: unknown; readonly sideEffects?: unknown }>(bytes);
  const { sideEffects } = manifest;
  // e.g. ["./src/polyfills.js", "*.css"]: a pattern without a slash matches in all folders.
  const globs = Array.isArray(sideEffects)
    ? sideEffects
        .filter((one) => typeof one === 'string')
        .map((one) => (one.includes('/') ? one.replace(/^\.?\//, '') : `**/${one}`))
    : undefined;
  const matches = globs && picomatch(globs);
  return {
    folder,
    isModule: manifest.type === 'module',
    hasSideEffects: (path) =>
      matches ? globs.length > 0 && matches(posix.relative(folder, path)) : sideEffects !== false,
  };
}

/** A JSON object; an empty one if it cannot be parsed. */
export function parseJson<T extends object>(bytes: Uint8Array): Partial<T> {
  try {
    return (JSON.parse(Buffer.from(bytes).toString('utf8')) as T | null) ?? {};
  } catch {
    return {};
  }
}
