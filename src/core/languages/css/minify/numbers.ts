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
  cases: [
    ['a { margin: 0.50px 00.5em +1.0px -0.0px; opacity: .80 }', 'a{margin:.5px.5em 1px 0;opacity:.8}'],
    [
      'a { line-height: 1.0; width: 1.50E3px; z-index: 010; x: 1e+2 1e-2 }',
      'a{line-height:1;width:1.5e3px;z-index:10;x:1e2 1e-2}',
    ],
    ['a { width: 12345678901234567890.12345678901234567890px }', 'a{width:12345678901234567890.1234567890123456789px}'],
    ['a { width: calc(1px / -0.0) }', 'a{width:calc(1px/-0)}'],
    ['a { order: 2.0; z-index: +02; grid-row: 1.0 }', 'a{order:2.0;z-index:2;grid-row:1.0}'],
  ],
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
  // Most numbers are short as they are.
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
