import type { AnyNode, Comment, Expression, Pattern, Program } from 'acorn';
import type { ScriptOutput } from './output.js';
import { precedenceOf } from './precedence.js';

/** Prints the nodes of some types. */
export type NodePrinters = {
  readonly [Type in AnyNode['type']]?: (
    node: Extract<AnyNode, { type: Type }>,
    printer: Printer,
    minimum: number,
  ) => void;
};

/**
 * Prints an ESTree in as few characters as its grammar allows. It changes no names and no order; each node type has
 * one function in the table of its file.
 */
export class Printer {
  /** Inside the head of a `for` loop, where an `in` would be parsed as the loop's. */
  noIn = false;
  #semicolonDue = false;
  /** The number of of the comments that have been printed. */
  #kept = 0;

  /**
   * @param printers one for each node type
   * @param out receives the text
   * @param original the parsed text
   * @param comments the preserved comments, in order
   * @param hasES2015 whether templates and shorthand properties may be used
   */
  constructor(
    private readonly printers: NodePrinters,
    readonly out: ScriptOutput,
    readonly original: string,
    private readonly comments: readonly Comment[],
    readonly hasES2015 = false,
  ) {}

  /** Prints a whole program. */
  program(program: Program): void {
    if (this.original.startsWith('#!')) this.out.raw(`${/^.*/.exec(this.original)![0]}\n`);
    this.statements(program.body);
    this.#keepComments(Infinity);
  }

  /** Prints any node on its own. */
  node(node: AnyNode, minimum = 0): void {
    const print = this.printers[node.type] as ((node: AnyNode, printer: Printer, minimum: number) => void) | undefined;
    if (!print) throw new Error(`no printer for ${node.type}`);
    print(node, this, minimum);
  }

  /** Prints an expression, in parentheses where it binds less tightly than its surroundings need. */
  expression(node: Expression | Pattern | AnyNode, minimum: number): void {
    if (precedenceOf(node) < minimum) this.parenthesized(node);
    else this.node(node, minimum);
  }

  parenthesized(node: AnyNode): void {
    this.out.put('(');
    this.node(node);
    this.out.put(')');
  }

  /** Prints items with a separator between them. */
  list<T>(items: readonly T[], separator: string, print: (item: T) => void): void {
    items.forEach((item, index) => {
      if (index > 0) this.out.put(separator);
      print(item);
    });
  }

  /** Prints a list of statements; empty ones are left out. */
  statements(body: readonly AnyNode[]): void {
    for (const statement of body) {
      if (statement.type === 'EmptyStatement') continue;
      this.flush();
      this.#keepComments(statement.start);
      this.out.mark(statement.start);
      this.node(statement);
    }
  }

  /** Prints statements in braces; the last needs no semicolon. */
  braced(body: readonly AnyNode[], end: number): void {
    this.out.put('{');
    this.statements(body);
    this.#keepComments(end);
    this.#semicolonDue = false;
    this.out.mark(end - 1);
    this.out.put('}');
  }

  /** Notes that a semicolon belongs here, if anything follows. */
  due(): void {
    this.#semicolonDue = true;
  }

  /** Forgets a semicolon that a brace makes needless. */
  settled(): void {
    this.#semicolonDue = false;
  }

  /** Prints a semicolon that is due. */
  flush(): void {
    if (this.#semicolonDue) this.out.put(';');
    this.#semicolonDue = false;
  }

  #keepComments(before: number): void {
    for (; this.#kept < this.comments.length && this.comments[this.#kept]!.start < before; this.#kept++) {
      const { start, end } = this.comments[this.#kept]!;
      this.flush();
      if (this.out.text !== '' && !this.out.text.endsWith('\n')) this.out.raw('\n');
      // In a page, the script would end there.
      const text = this.original.slice(start, end).replace(/<\/(?=script)/gi, '<\\/');
      this.out.raw(`${text.replace(/\r\n?/g, '\n')}\n`);
    }
  }
}
