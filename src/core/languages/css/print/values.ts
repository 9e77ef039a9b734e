import type { CssNodePlain } from 'css-tree';
import { printString, printUrl } from './text.js';

/** Prints the components of a value: with spaces only where two of them would run together. */
export function printComponents(nodes: readonly CssNodePlain[], print: (node: CssNodePlain) => string): string {
  let text = '';
  // The last character: reading the end of the whole text would take longer as it grows.
  let previous = '';
  let glued = true;
  for (const node of nodes) {
    if (node.type === 'WhiteSpace') continue;
    if (node.type === 'Operator') {
      const sign = printOperator(node.value);
      // A slash and a star side by side would open a comment.
      text += previous === '/' && sign.startsWith('*') ? ` ${sign}` : sign;
      previous = sign;
      glued = true;
      continue;
    }
    let next = print(node);
    // e.g. `-+3`, where the sign separates the number from the previous token
    if (glued && /[+-]$/.test(previous) && /^[\d.]/.test(next)) next = `+${next}`;
    text += !glued && needSpace(previous, next) ? ` ${next}` : next;
    previous = next;
    glued = false;
  }
  return text;
}

/** One component of a value, with all that is in it. */
export function printComponent(node: CssNodePlain): string {
  switch (node.type) {
    case 'Identifier':
      return node.name;
    case 'Operator':
      return node.value.trim();
    case 'Number':
      return node.value;
    case 'Percentage':
      return `${node.value}%`;
    case 'Dimension':
      return node.value + node.unit;
    case 'Hash':
      return `#${node.value}`;
    case 'String':
      return printString(node.value);
    case 'Url':
      return printUrl(node.value);
    case 'UnicodeRange':
      return node.value;
    case 'Function':
      return `${node.name}(${printComponents(node.children, printComponent)})`;
    case 'Parentheses':
      return `(${printComponents(node.children, printComponent)})`;
    case 'Brackets':
      return `[${printComponents(node.children, printComponent)}]`;
    case 'Raw':
      return node.value.trim();
    case 'Declaration':
      return `${node.property}:${node.value.type === 'Raw' ? printRawValue(node.property, node.value.value) : printComponents(node.value.children, printComponent)}`;
    default:
      throw new Error(`no printer for ${node.type} in a value`);
  }
}

/** White space around a value has no effect; an empty custom property keeps one space for browsers that require it. */
export function printRawValue(property: string, value: string): string {
  const trimmed = value.trim();
  return trimmed === '' && property.startsWith('--') ? ' ' : trimmed;
}

/** Commas, slashes and stars need no space; plus and minus in a calculation do (CSS Values Level 4, section 10.8). */
function printOperator(value: string): string {
  const sign = value.trim();
  return sign === '+' || sign === '-' ? value : sign;
}

/**
 * Reports whether two components run together, or older engines think they do, without a space (CSS Syntax Level 3, section 9).
 */
function needSpace(before: string, after: string): boolean {
  const first = after[0];
  if (first === undefined || first === '"' || first === "'" || first === '[') return false;
  const last = before.at(-1);
  if (last === ']' || last === '"' || last === "'") return false;
  // A number that begins with a dot cannot belong to the unit before it.
  return !(first === '.' && /^[-.\d]*\d[a-z]+$/i.test(before));
}
