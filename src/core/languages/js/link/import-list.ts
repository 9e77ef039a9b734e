/** The import declarations of a file, by specifier in order. */
export class ImportList {
  readonly #imports = new Map<string, (readonly [name: string, alias: string])[]>();

  /** Imports a file for its evaluation, or a name of it; `*` is its namespace. */
  add(specifier: string, name?: string, alias?: string): void {
    const names = this.#imports.get(specifier) ?? [];
    this.#imports.set(specifier, names);
    if (name !== undefined && alias !== undefined) names.push([name, alias]);
  }

  *lines(): Generator<{ readonly text: string; readonly url: string }> {
    for (const [specifier, names] of this.#imports) {
      const from = JSON.stringify(specifier);
      const named = names.filter(([name]) => name !== '*').map(([name, alias]) => importSpecifier(name, alias));
      for (const [name, alias] of names)
        if (name === '*') yield { text: `import * as ${alias} from ${from};\n`, url: specifier };
      if (named.length > 0) yield { text: `import { ${named.join(', ')} } from ${from};\n`, url: specifier };
      if (names.length === 0) yield { text: `import ${from};\n`, url: specifier };
    }
  }
}

const importSpecifier = (name: string, alias: string): string =>
  name === alias ? name : `${moduleExportName(name)} as ${alias}`;

/** A name in a list of imports or exports, written as a string if it is not an identifier (`ModuleExportName`; ECMA-262, section 16.2). */
export const moduleExportName = (name: string): string =>
  /^[\p{ID_Start}$_][\p{ID_Continue}$\u200c\u200d]*$/u.test(name) ? name : JSON.stringify(name);
