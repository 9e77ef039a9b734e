import { Parser } from 'acorn';

/** The names that a scope declares, as the parser asks for them. */
class NameList {
  readonly #names = new Set<string>();
  #first: string | undefined;

  /** The first name. */
  get 0(): string | undefined {
    return this.#first;
  }

  push(name: string): void {
    if (this.#names.size === 0) this.#first = name;
    this.#names.add(name);
  }

  /** At least 0 if the scope declares the name, otherwise -1. */
  indexOf(name: string): number {
    return this.#names.has(name) ? 0 : -1;
  }
}

/** The part of the parser that keeps track of scopes; plugins may override it. */
interface ScopeTracker {
  enterScope(flags: number): void;
  readonly scopeStack: { var: NameList; lexical: NameList; functions: NameList }[];
}

/**
 * A parser whose time does not grow with the square of the names at the top level, of which linked files have thousands:
 * acorn keeps them in arrays that it searches for each declaration.
 */
export const LinearParser = Parser.extend((base) => {
  // The methods are not part of the declared type.
  const tracked = base as unknown as new (...args: unknown[]) => ScopeTracker;
  class WithSets extends tracked {
    override enterScope(flags: number): void {
      super.enterScope(flags);
      if (this.scopeStack.length > 1) return;
      const [top] = this.scopeStack;
      top!.var = new NameList();
      top!.lexical = new NameList();
      top!.functions = new NameList();
    }
  }
  return WithSets as unknown as typeof Parser;
});
