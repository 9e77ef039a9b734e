import type { AnyNode, Identifier, LabeledStatement, Program } from 'acorn';
import { eachChild, isFunction } from '../tree/children.js';
import { noteOriginalName } from '../tree/original-name.js';
import type { ShortNames } from './short-names.js';

/**
 * Renames labels by their nesting depth; they have a namespace of their own (ECMA-262, section 14.13).
 */
export function renameLabels(program: Program, letters: ShortNames): void {
  visit(program, []);

  function visit(node: AnyNode, around: readonly LabeledStatement[]): void {
    if (node.type === 'LabeledStatement') {
      visit(node.body, [...around, node]);
      node.label = renamed(node.label, letters.name(around.length));
    } else if ((node.type === 'BreakStatement' || node.type === 'ContinueStatement') && node.label) {
      const { label } = node;
      const at = around.findLastIndex((one) => one.label.name === label.name);
      node.label = renamed(label, letters.name(at));
    } else if (node.type !== 'Identifier' && node.type !== 'Literal') below(node, around);
  }

  // A separate function: the closure would slow down every visit.
  function below(node: AnyNode, around: readonly LabeledStatement[]): void {
    const inside = isFunction(node) ? [] : around;
    eachChild(node, (child) => visit(child, inside));
  }
}

function renamed(label: Identifier, name: string): Identifier {
  const made = { ...label, name };
  noteOriginalName(made, label.name);
  return made;
}
