import { Random } from './random.js';

/** The names that a random module may export. */
const names = ['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'];

/**
 * Makes a random module of declarations and exports of every form, which reads its names before, between and after them,
 * and which may fail on the way. It reports to a global function `log`.
 */
export function randomModule(seed: number): { readonly text: string; readonly exports: readonly string[] } {
  return new ModuleWriter(seed).module();
}

/** Runs a module; returns what it logs, the values of its exports, and the kind of error that ends it. */
export async function runModule(text: string, exports: readonly string[]): Promise<string> {
  const lines: string[] = [];
  const log = (...values: unknown[]): unknown => {
    lines.push(values.map((value) => (typeof value === 'function' ? 'function' : JSON.stringify(value))).join(' '));
    return values[0];
  };
  const later: (() => void)[] = [];
  Object.assign(globalThis, { log, later: (act: () => void) => later.push(act) });
  const url = (code: string): string => `data:text/javascript,${encodeURIComponent(code)}`;
  // A module of the same text is evaluated once.
  const unique = `//${String(Math.random())}\n`;
  const main = `import { ${exports.map((name) => `${name} as x_${name}`).join(', ')} } from ${JSON.stringify(url(unique + text))};\nlog(${exports.map((name) => `x_${name}`).join(', ')});`;
  const attempt = async (act: () => unknown): Promise<void> => {
    try {
      await act();
    } catch (error) {
      lines.push(`fails with ${error instanceof Error ? error.name : typeof error}`);
    }
  };
  await attempt(() => import(url(main)));
  for (const act of later) await attempt(act);
  return lines.join('\n');
}

class ModuleWriter extends Random {
  readonly #declared: string[] = [];
  readonly #exported: string[] = [];
  #hasDefault = false;

  module(): { text: string; exports: readonly string[] } {
    const free = [...names];
    const lines = Array.from({ length: this.between(4, 10) }, () => this.#statement(free));
    const listed = this.#declared.filter((name) => !this.#exported.includes(name) && this.chance(0.2));
    if (listed.length > 0) {
      const at = this.between(0, lines.length);
      lines.splice(at, 0, `export { ${listed.map((name) => `${name} as also_${name}`).join(', ')} };`);
    }
    return { text: lines.join('\n'), exports: [...this.#exported, ...listed.map((name) => `also_${name}`)] };
  }

  #statement(free: string[]): string {
    const form = this.between(0, 13);
    const name = form < 9 ? free.shift() : undefined;
    if (name === undefined) return this.#other(form);
    const value = this.#value();
    this.#declared.push(name);
    const isExported = this.chance(0.4);
    if (isExported) this.#exported.push(name);
    const made = this.pick([
      `const ${name} = ${value};`,
      `const ${name} = ${value};`,
      `let ${name} = ${value};`,
      `let ${name};`,
      `var ${name} = ${value};`,
      `function ${name}() { return ${value}; }`,
      `class ${name} { static own = ${value}; }`,
      `const { own: ${name} = ${value} } = {};`,
    ]);
    return (isExported ? 'export ' : '') + made;
  }

  #other(form: number): string {
    const read = this.#value();
    if (form === 13 && !this.#hasDefault) {
      this.#hasDefault = true;
      this.#exported.push('default');
      return this.pick([`export default ${read};`, `export default function () { return ${read}; }`]);
    }
    if (this.chance(0.1))
      return this.pick([`throw ${read};`, `if (log(${read})) throw 1;`, `if (${read}) log(2); else throw 3;`]);
    return this.pick([
      `log(${read}, ${read});`,
      `log(${read});`,
      `later(() => log(${read}));`,
      `{ const inner = ${read}; log(inner); }`,
      `for (let i = ${read}, j = i; i < 1; i++) log(j);`,
      `try { log(${read}); } catch { log("early"); }`,
    ]);
  }

  #value(): string {
    const name =
      this.chance(0.6) && this.#declared.length > 0 ? this.pick(this.#declared) : this.pick(['1', '2', '"t"']);
    return this.pick([name, name, `log(${name})`, `[${name}]`, `(${name} ?? 3)`, `typeof ${name}`]);
  }
}
