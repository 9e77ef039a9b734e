import type { AnyNode } from 'acorn';
import { bindingOf } from '../scopes/binding.js';
import { eachChild, isFunction } from '../tree/children.js';
import type { TextRange } from './name-uses.js';

/** A read of an import, by its local name. */
export interface CertainRead extends TextRange {
  readonly local: string;
}

/**
 * Finds the reads of imports that evaluating a statement certainly reaches, unless it fails before: not in functions, in
 * branches that may be skipped, or where an error would be caught.
 */
export function certainReads(node: AnyNode): CertainRead[] {
  const found: CertainRead[] = [];
  const visit = (one: AnyNode): void => {
    if (isFunction(one)) return;
    switch (one.type) {
      case 'Identifier': {
        const binding = bindingOf(one);
        if (binding?.kind === 'import') found.push({ local: binding.name, start: one.start, end: one.end });
        return;
      }
      case 'IfStatement':
      case 'ConditionalExpression':
        return visit(one.test);
      case 'LogicalExpression':
        return visit(one.left);
      case 'AssignmentExpression':
        // e.g. `first ||= second`: the right side is only evaluated if it is needed.
        visit(one.left);
        return /^(\|\||&&|\?\?)=$/.test(one.operator) ? undefined : visit(one.right);
      case 'AssignmentPattern':
        return visit(one.left);
      case 'WhileStatement':
        return visit(one.test);
      case 'ForStatement':
        return one.init ? visit(one.init) : undefined;
      case 'ForInStatement':
      case 'ForOfStatement':
        return visit(one.right);
      case 'SwitchStatement':
        return visit(one.discriminant);
      // e.g. `first?.second(third)`: the whole chain may end early.
      case 'ChainExpression':
      case 'TryStatement':
      // Its body may end with `break` before it gets to a read.
      case 'DoWhileStatement':
      case 'LabeledStatement':
      case 'ExportNamedDeclaration':
      case 'ImportDeclaration':
        return;
      case 'PropertyDefinition':
        if (one.computed) visit(one.key);
        if (one.static && one.value) visit(one.value);
        return;
      default:
        eachChild(one, visit);
    }
  };
  visit(node);
  return found;
}
