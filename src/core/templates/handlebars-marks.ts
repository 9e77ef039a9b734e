import type * as library from 'handlebars';
import type { Template } from './template.js';
import type { TextMarks } from './text-marks.js';
import { offsetAt } from './line-offset.js';

/** Parses a template, and puts marks before its texts and expressions. */
export function markTexts(
  handlebars: Pick<typeof library, 'parse' | 'Visitor'>,
  template: Template,
  marks: TextMarks,
): hbs.AST.Program {
  const text = template.text.slice(template.start);
  const Visitor = class extends handlebars.Visitor {
    override Program(program: hbs.AST.Program): void {
      super.Program(program);
      program.body = program.body.flatMap((node) => {
        const range = rangeOf(node, text);
        if (!range) return [node];
        const value = marks.before(template, template.start + range[0], template.start + range[1]);
        return [{ type: 'ContentStatement', value, original: value, loc: node.loc } as hbs.AST.Statement, node];
      });
    }
  };
  const program = handlebars.parse(text);
  new Visitor().accept(program);
  return program;
}

/** The offsets of a text as it is printed, or of an expression; undefined for all else. */
function rangeOf(node: hbs.AST.Statement, text: string): readonly [start: number, end: number] | undefined {
  const { start, end } = node.loc;
  const from = offsetAt(text, start.line, start.column);
  if (node.type === 'MustacheStatement') return [from, offsetAt(text, end.line, end.column)];
  if (node.type !== 'ContentStatement') return undefined;
  // The types of the package say something else of `original`.
  const { value, original } = node as unknown as Readonly<Record<'value' | 'original', string>>;
  // White space beside tags is stripped.
  const stripped = Math.max(0, original.indexOf(value));
  return value === '' ? undefined : [from + stripped, from + stripped + value.length];
}
