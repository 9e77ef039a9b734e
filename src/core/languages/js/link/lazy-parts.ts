import type { Chunk } from './chunk.js';
import { stemOf } from './names.js';

/** The functions of a part. */
interface LazyPart {
  /** The function that evaluates the part once, and returns the names that others use. */
  readonly load: string;
  /** The variable that holds the result. */
  readonly result: string;
  /** The names that other parts use. */
  readonly names: Set<string>;
  /** The names that it uses of other parts. */
  readonly uses: Map<Chunk, Set<string>>;
}

/**
 * The parts of a classic script that `import()` evaluates: each is a function that is called when it is first needed, and
 * returns the names that other parts use. All names of the file are different, so that a name is the same everywhere.
 */
export class LazyParts {
  readonly #parts: ReadonlyMap<Chunk, LazyPart>;
  readonly #load: string;
  readonly #evaluate: string;
  #isCalled = false;

  /** @param unique returns a name that nothing in the file has */
  constructor(chunks: readonly Chunk[], unique: (like: string) => string) {
    this.#parts = new Map(
      chunks.map((chunk) => {
        const stem = stemOf(chunk.modules.at(-1)!.path);
        return [
          chunk,
          { load: unique(`load_${stem}`), result: unique(`loaded_${stem}`), names: new Set(), uses: new Map() },
        ];
      }),
    );
    this.#load = unique('load_module');
    this.#evaluate = unique('evaluate_once');
  }

  /** Reports whether a chunk is one of these parts. */
  has(chunk: Chunk): boolean {
    return this.#parts.has(chunk);
  }

  /** A name of another part, for one that uses it. */
  name(chunk: Chunk, name: string, user: Chunk): string {
    const uses = this.#parts.get(user)?.uses;
    const part = this.#parts.get(chunk);
    part?.names.add(name);
    if (part) uses?.set(chunk, (uses.get(chunk) ?? new Set()).add(name));
    return name;
  }

  /** The call that loads a module with its namespace, which the chunk declares. */
  call(chunk: Chunk, namespace: string): string {
    const part = this.#parts.get(chunk);
    part?.names.add(namespace);
    this.#isCalled = true;
    return `${this.#load}(() => ${part ? `${part.load}().` : ''}${namespace})`;
  }

  /** The text before a part, which evaluates the parts that it needs. */
  head(chunk: Chunk, needed: readonly Chunk[]): string {
    const { load, result, uses } = this.#parts.get(chunk)!;
    const lines = [...new Set([...needed, ...uses.keys()])].map((one) => {
      const names = [...(uses.get(one) ?? [])];
      const call = `${this.#parts.get(one)!.load}();\n`;
      return names.length === 0 ? call : `const { ${names.join(', ')} } = ${call}`;
    });
    return `var ${result};\nfunction ${load}() {\nreturn (${result} || (${result} = ${this.#evaluate}(() => {\n${lines.join('')}`;
  }

  /** The text after a part. */
  tail(chunk: Chunk): string {
    return `return { ${[...this.#parts.get(chunk)!.names].join(', ')} };\n})))();\n}\n`;
  }

  /** The functions that parts use; empty without any. */
  helpers(): string {
    if (!this.#isCalled) return '';
    // A part that failed fails again with the same error (ECMA-262, section 16.2.1.6.1.3).
    return `function ${this.#load}(get) {\nreturn Promise.resolve().then(get);\n}
function ${this.#evaluate}(part) {
try {
const names = part();
return () => names;
} catch (error) {
return () => { throw error; };
}
}
`;
  }
}
