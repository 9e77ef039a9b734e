import { offsetAt } from './line-offset.js';
import type { Template } from './template.js';
import type { TextMarks } from './text-marks.js';

/** A node of a parsed Pug template, as far as it is used here. */
interface PugNode {
  readonly type: string;
  readonly filename?: string;
  /** From 1. */
  readonly line: number;
  /** From 1. */
  readonly column?: number;
  readonly val?: string;
  /** True for code whose value is printed. */
  readonly buffer?: boolean;
  readonly attrs?: PugAttribute[];
  readonly block?: PugNode | null;
  nodes?: PugNode[];
  /** Both branches of a condition, and the blocks of loops. */
  readonly consequent?: PugNode | null;
  readonly alternate?: PugNode | null;
}

interface PugAttribute {
  readonly name: string;
  /** The source of an expression in JavaScript, or `true`. */
  val: string | boolean;
  readonly line: number;
  readonly column: number;
  readonly filename?: string;
}

/** A string without escapes, whose text the page has as it stands. */
const plainString = /^(["'])(?:(?!\1)[^\\])*\1$/s;

/**
 * Puts marks before the texts, tags and values of a template.
 *
 * @param root the tree of the template with all that it extends and includes
 * @param templateOf a template by the name of its file
 */
export function markNodes(root: PugNode, templateOf: (file: string | undefined) => Template, marks: TextMarks): void {
  const markAt = (node: PugNode | PugAttribute, length: number, shift = 0): string => {
    const template = templateOf(node.filename);
    const start = offsetAt(template.text, node.line, (node.column ?? 1) - 1) + shift;
    return marks.before(template, start, start + length);
  };
  const text = (val: string, { line, filename }: PugNode): PugNode => ({
    type: 'Text',
    val,
    line,
    filename: filename!,
  });
  const markAttribute = (attribute: PugAttribute): void => {
    const { name, val, line, column, filename } = attribute;
    if (name === 'class' || typeof val !== 'string' || !plainString.test(val)) return;
    const template = templateOf(filename);
    const shift = template.text.slice(offsetAt(template.text, line, column - 1)).indexOf(val) + 1;
    if (shift > 0) attribute.val = val[0]! + markAt(attribute, val.length - 2, shift) + val.slice(1);
  };
  const mark = (node: PugNode): readonly PugNode[] => {
    visit(node);
    const isTag = node.type === 'Tag' || node.type === 'InterpolatedTag';
    const isPrinted = isTag || node.type === 'Text' || node.type === 'BlockComment' || node.type === 'Comment';
    if (!isPrinted && !(node.type === 'Code' && node.buffer === true)) return [node];
    if (isTag) {
      node.attrs?.forEach(markAttribute);
      // The end of the element comes from its tag, not from the last of its children.
      if (node.block?.nodes?.length) node.block.nodes.push(text(markAt(node, 1), node));
    }
    return [text(markAt(node, node.val?.length ?? 1), node), node];
  };
  const visit = (node: PugNode): void => {
    if (node.nodes) node.nodes = node.nodes.flatMap(mark);
    for (const one of [node.block, node.consequent, node.alternate]) if (one) visit(one);
  };
  visit(root);
}
