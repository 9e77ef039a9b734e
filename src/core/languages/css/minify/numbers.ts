import type { Dimension, NumberNode, Percentage } from 'css-tree';
import type { StyleRewrite, ValuePlace } from './rewrite.js';

const mathFunctions =
  /^(-\w+-)?(calc|min|max|clamp|round|mod|rem|sin|cos|tan|asin|acos|atan|atan2|pow|sqrt|hypot|log|exp|abs|sign)$/;

/** Properties with whole numbers in them. */
const wholeProperties =
  /^(-\w+-)?(z-index|order|orphans|widows|column-count|columns|grid-area|grid-(row|column)(-start|-end)?|counter-(reset|increment|set)|initial-letter|line-clamp|box-ordinal-group|flex-order|math-depth|hyphenate-limit-chars|max-lines|reading-order)$/;

const takesWhole = (name: string): boolean => /^(steps|repeat)$/.test(name);

/** Writes numbers without needless zeros and signs. */
export const numbers: StyleRewrite = {
  name: 'numbers',
  doc: 'Removes leading and trailing zeros and plus signs from numbers; the value is exactly the same.',
  reference: 'CSS Syntax Level 3, section 4.3.13',
  keepsText: true,
  component: { Number: shortened, Percentage: shortened, Dimension: shortened },
};

function shortened<Node extends NumberNode | Percentage | Dimension>(
  node: Node,
  { property, functions }: ValuePlace,
): Node | undefined {
  // Where only integers are valid, 2.0 is invalid and must remain so.
  const isWhole = node.type === 'Number' && (wholeProperties.test(property) || functions.some(takesWhole));
  if (isWhole && !/^[+-]?\d+$/.test(node.value)) return undefined;
  // In a calculation, the sign of zero can decide.
  const keepsSign = functions.some((name) => mathFunctions.test(name));
  const value = shortNumber(node.value, keepsSign);
  return value === node.value ? undefined : { ...node, value };
}

/**
 * The shortest notation of a number, computed from its digits without rounding.
 *
 * @param keepsSign true to keep `-0`
 */
export function shortNumber(text: string, keepsSign = false): string {
  // Most numbers are short already.
  if (/^-?[1-9]\d*$/.test(text)) return text;
  const parts = /^([+-]?)(\d*)(?:\.(\d+))?(?:e([+-]?\d+))?$/i.exec(text);
  if (!parts) return text;
  const [, sign = '', whole = '', fraction = '', exponent] = parts;
  const digits =
    (whole.replace(/^0+/, '') || (fraction.replace(/0+$/, '') ? '' : '0')) +
    (fraction.replace(/0+$/, '') ? `.${fraction.replace(/0+$/, '')}` : '');
  const isZero = digits === '0';
  const minus = sign === '-' && (!isZero || keepsSign) ? '-' : '';
  if (isZero) return `${minus}0`;
  const power = Number(exponent ?? 0);
  return minus + digits + (power === 0 ? '' : `e${String(power)}`);
}
