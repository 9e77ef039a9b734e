import type { CssNodePlain } from 'css-tree';
import { printSelector } from './selectors.js';
import { printComponent, printComponents } from './values.js';

/** Prints the prelude of an at-rule. */
export function printPrelude(nodes: readonly CssNodePlain[]): string {
  return spaced(nodes.map((node) => (isSelector(node) ? printSelector(node) : printCondition(node))));
}

/** Prints a media query, a condition of `@supports` or `@container`, or another part of a prelude. */
function printCondition(node: CssNodePlain): string {
  switch (node.type) {
    case 'MediaQueryList':
      return node.children.map(printCondition).join(',');
    case 'MediaQuery': {
      const condition = node.condition ? [printCondition(node.condition)] : [];
      const type = [node.modifier, node.mediaType].filter((word): word is string => word !== null);
      return spaced(type.length > 0 && condition.length > 0 ? [...type, 'and', ...condition] : [...type, ...condition]);
    }
    case 'Condition':
      return spaced(
        node.children.map((child) =>
          child.type === 'Condition' ? `(${printCondition(child)})` : printCondition(child),
        ),
      );
    case 'Feature':
      return `(${node.name}${node.value ? `:${printCondition(node.value)}` : ''})`;
    case 'FeatureRange': {
      const { left, leftComparison, middle, rightComparison, right } = node;
      const parts = [
        printCondition(left),
        leftComparison,
        printCondition(middle),
        ...(right && rightComparison ? [rightComparison, printCondition(right)] : []),
      ];
      return `(${parts.join('')})`;
    }
    case 'FeatureFunction':
      // Browsers serialize the argument of selector() as written, and scripts may compare it.
      return `${node.feature}(${isSelector(node.value) ? printSelector(node.value, true) : printComponent(node.value)})`;
    case 'SupportsDeclaration':
      return `(${printComponent(node.declaration)}${node.declaration.important ? '!important' : ''})`;
    case 'Function':
      // In a prelude, functions contain parts of preludes: layer( ), supports( ).
      return `${node.name}(${printPrelude(node.children)})`;
    case 'Ratio':
      return `${printCondition(node.left)}${node.right ? `/${printCondition(node.right)}` : ''}`;
    case 'GeneralEnclosed':
      return `${node.function ?? ''}(${printComponents(node.children, printComponent)})`;
    case 'LayerList':
      return node.children.map(printCondition).join(',');
    case 'Layer':
      return node.name;
    case 'Operator':
      return node.value.trim();
    case 'Scope': {
      const root = node.root ? [`(${printSelector(node.root)})`] : [];
      return spaced([...root, ...(node.limit ? ['to', `(${printSelector(node.limit)})`] : [])]);
    }
    default:
      return printComponents([node], printComponent);
  }
}

const isSelector = (node: CssNodePlain): boolean => node.type === 'SelectorList' || node.type === 'Selector';

/**
 * Joins components with spaces. In conditions, keywords are separated from parentheses, because `and(` would be a
 * function; commas need no space.
 */
function spaced(parts: readonly string[]): string {
  return parts.reduce(
    (text, part) =>
      text === '' || part === '' || part === ',' || text.endsWith(',') ? text + part : `${text} ${part}`,
    '',
  );
}
