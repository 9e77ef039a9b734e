import type { CssNodePlain } from 'css-tree';
import { isPlainIdentifier, printString } from './text.js';
import { printComponents, printComponent } from './values.js';

/**
 * Prints a selector or a part of one (Selectors Level 4).
 *
 * @param spaced true to print spaces around combinators
 */
export function printSelector(node: CssNodePlain, spaced = false): string {
  // The parser knows this node, its types do not.
  if ((node.type as string) === 'NestingSelector') return '&';
  switch (node.type) {
    case 'SelectorList':
      return node.children.map((child) => printSelector(child, spaced)).join(spaced ? ', ' : ',');
    case 'Selector':
      return printAll(node.children, spaced).trimStart();
    case 'TypeSelector':
      return node.name;
    case 'ClassSelector':
      return `.${node.name}`;
    case 'IdSelector':
      return `#${node.name}`;
    case 'Combinator':
      return node.name.trim() === '' ? ' ' : spaced ? ` ${node.name} ` : node.name;
    case 'AttributeSelector':
      return printAttribute(node);
    case 'PseudoClassSelector':
    case 'PseudoElementSelector': {
      const colons = node.type === 'PseudoClassSelector' ? ':' : '::';
      return colons + node.name + (node.children ? `(${printAll(node.children, spaced)})` : '');
    }
    case 'Nth':
      return printSelector(node.nth, spaced) + (node.selector ? ` of ${printSelector(node.selector, spaced)}` : '');
    case 'AnPlusB':
      return printAnPlusB(node.a, node.b);
    case 'Raw':
      return node.value.trim();
    default:
      return printComponents([node], printComponent);
  }
}

function printAll(nodes: readonly CssNodePlain[], spaced: boolean): string {
  let text = '';
  for (const node of nodes) text += printSelector(node, spaced);
  return text;
}

type Attribute = Extract<CssNodePlain, { type: 'AttributeSelector' }>;

function printAttribute({ name, matcher, value, flags }: Attribute): string {
  if (!matcher || !value) return `[${name.name}]`;
  const text =
    value.type === 'String' ? (isPlainIdentifier(value.value) ? value.value : printString(value.value)) : value.name;
  const space = flags && !/["']$/.test(text) ? ' ' : '';
  return `[${name.name}${matcher}${text}${flags ? space + flags : ''}]`;
}

/** The shortest spelling of an+b (CSS Syntax Level 3, section 6). */
function printAnPlusB(a: string | null, b: string | null): string {
  const step = a === null ? 0 : Number(a);
  const offset = b === null ? 0 : Number(b);
  if (step === 2 && offset === 1) return 'odd';
  if (step === 0) return String(offset);
  const steps = step === 1 ? 'n' : step === -1 ? '-n' : `${String(step)}n`;
  return offset === 0 ? steps : `${steps}${offset > 0 ? '+' : ''}${String(offset)}`;
}
