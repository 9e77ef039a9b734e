import type { AnyNode, Program } from 'acorn';
import { eachChild } from '../tree/children.js';

/** The keywords that each node type is printed with, whose characters count for the frequency of letters. */
const keywords: Readonly<Partial<Record<AnyNode['type'], string>>> = {
  FunctionDeclaration: 'function',
  FunctionExpression: 'function',
  VariableDeclaration: 'var',
  ReturnStatement: 'return',
  IfStatement: 'if',
  ForStatement: 'for',
  ForInStatement: 'forin',
  ForOfStatement: 'forof',
  ThisExpression: 'this',
  NewExpression: 'new',
  ThrowStatement: 'throw',
  TryStatement: 'try',
  CatchClause: 'catch',
  SwitchCase: 'case',
  BreakStatement: 'break',
  ClassDeclaration: 'class',
  AwaitExpression: 'await',
};

const firstLetters = 'abcdefghijklmnopqrstuvwxyzABCDEFGHIJKLMNOPQRSTUVWXYZ_$';
const digits = '0123456789';

/** Words that cannot be names of bindings in any code (ECMA-262, section 12.7.2), and those with a value. */
export const reserved: ReadonlySet<string> = new Set(
  (
    'arguments as async await break case catch class const continue debugger default delete do else enum eval export ' +
    'extends false finally for from function get if implements import in instanceof interface let new null of package ' +
    'private protected public return set static super switch this throw true try typeof var void while with yield ' +
    'NaN top undefined'
  ).split(' '),
);

/**
 * Generates names from short to long, using letters in the order of their frequency in the rest of the output, which
 * improves compression.
 */
export class ShortNames {
  readonly #first: string;
  readonly #later: string;
  readonly #made: string[] = [];
  #next = 0;

  constructor(program: Program) {
    const counts = new Uint32Array(128);
    const add = (text: string): void => {
      for (let at = 0; at < text.length; at++) {
        const code = text.charCodeAt(at);
        if (code < 128) counts[code]!++;
      }
    };
    const visit = (node: AnyNode): void => {
      const words = keywords[node.type];
      if (words !== undefined) add(words);
      if (node.type === 'MemberExpression' && !node.computed && node.property.type === 'Identifier')
        add(node.property.name);
      else if (node.type === 'Property' && !node.computed && node.key.type === 'Identifier') add(node.key.name);
      else if (node.type === 'Literal' && typeof node.value === 'string') add(node.value);
      eachChild(node, visit);
    };
    visit(program);
    const sorted = (signs: string): string =>
      [...signs].sort((a, b) => counts[b.charCodeAt(0)]! - counts[a.charCodeAt(0)]!).join('');
    this.#first = sorted(firstLetters);
    this.#later = sorted(firstLetters + digits);
  }

  /** The name at a place in the order; none is a reserved word. */
  name(index: number): string {
    while (this.#made.length <= index) {
      const name = this.#spell(this.#next++);
      if (!reserved.has(name)) this.#made.push(name);
    }
    return this.#made[index]!;
  }

  #spell(number: number): string {
    let name = this.#first[number % this.#first.length]!;
    for (let rest = Math.floor(number / this.#first.length); rest > 0; rest = Math.floor(rest / this.#later.length))
      name += this.#later[--rest % this.#later.length]!;
    return name;
  }
}
