import type { CssNodePlain, FunctionNodePlain } from 'css-tree';
import { mathType } from '../cascade/math.js';
import { holdsSubstitution } from '../cascade/value-text.js';
import { printComponent } from '../print/values.js';
import { splitAtCommas } from '../commas.js';
import {
  add,
  compareDecimals,
  divide,
  multiply,
  negate,
  one,
  printDecimal,
  readDecimal,
  zero,
  type Decimal,
} from './decimal.js';
import type { StyleRewrite, ValuePlace } from './rewrite.js';

/** Evaluates calculations as far as they do not depend on the page. */
export const calculations: StyleRewrite = {
  name: 'calculations',
  doc: 'Evaluates calculations with known numbers, without rounding. Operands that depend on the page, and everything that contains `var()`, are kept.',
  reference: 'CSS Values Level 4, section 10.10',
  component: {
    Function(node, place) {
      const name = node.name.toLowerCase();
      if (!/^(calc|min|max|clamp)$/.test(name) || holdsSubstitution(node.children)) return undefined;
      if (place.descriptorOf !== undefined) return undefined;
      const made = name === 'calc' ? simplifyCalc(node, place) : simplifyComparison(node, name, place);
      return made && printComponent(made).length < printComponent(node).length ? made : undefined;
    },
  },
};

/** One summand of a calculation: a number with a unit, or a node that cannot be worked out, some number of times. */
interface Term {
  readonly factor: Decimal;
  /** `''` for a plain number. */
  readonly unit: string;
  readonly node?: CssNodePlain;
}

type Sum = readonly Term[];

function simplifyCalc(node: FunctionNodePlain, place: ValuePlace): CssNodePlain | undefined {
  const sum = readSum(node.children);
  if (!sum) return undefined;
  const [only] = sum;
  const loc = node.loc ? { loc: node.loc } : {};
  const isNested = place.functions.some((name) => /^(calc|min|max|clamp)$/.test(name));
  if (sum.length === 1 && only?.node?.type === 'Function' && isOne(only.factor)) return only.node;
  if (sum.length === 1 && only && !only.node && (isNested || standsAlone(only, place)))
    return { ...numberNode(only), ...loc };
  const children = writeSum(sum);
  return isNested ? { type: 'Parentheses', children, ...loc } : { ...node, children };
}

function simplifyComparison(node: FunctionNodePlain, name: string, place: ValuePlace): CssNodePlain | undefined {
  const terms: Term[] = [];
  for (const part of splitAtCommas(node.children)) {
    const sum = readSum(part);
    if (sum?.length !== 1 || sum[0]!.node) return undefined;
    terms.push(sum[0]!);
  }
  // The base of a percentage may be negative, which reverses the order.
  if (terms.length === 0 || terms.some(({ unit }) => unit === '%' || unit !== terms[0]!.unit)) return undefined;
  const least = (a: Term, b: Term): Term => (compareDecimals(a.factor, b.factor) <= 0 ? a : b);
  const most = (a: Term, b: Term): Term => (compareDecimals(a.factor, b.factor) >= 0 ? a : b);
  const [low, value, high] = terms;
  const found =
    name === 'min'
      ? terms.reduce(least)
      : name === 'max'
        ? terms.reduce(most)
        : low && value && high && terms.length === 3
          ? most(low, least(value, high))
          : undefined;
  return found && standsAlone(found, place) ? numberNode(found) : undefined;
}

/** Properties in which a length may be below zero; elsewhere a calculation is cut off at zero, a plain length is an error. */
const takesNegative =
  /^(margin|inset|scroll-margin)(-|$)|^(top|right|bottom|left|text-indent|letter-spacing|word-spacing|z-index|order|translate|rotate|(-\w+-)?(transform|perspective)-origin|(-\w+-)?transform|background-position(-[xy])?|object-position|outline-offset|vertical-align|text-underline-offset)$/;

/** Reports whether a number may replace a calculation. */
function standsAlone({ factor, unit }: Term, { property, functions }: ValuePlace): boolean {
  const isWhole = !printDecimal(factor).includes('.');
  // A calculation is rounded where an integer is expected, and remains a calculation where a number may be a length.
  if (
    unit === '' &&
    !(
      isWhole &&
      /^(z-index|order|column-count|columns|flex-grow|flex-shrink|(-\w+-)?animation-iteration-count)$/.test(property)
    )
  )
    return false;
  if (factor.digits >= 0n) return true;
  return takesNegative.test(property) && functions.every((name) => /^(calc|min|max|clamp|translate\w*)$/.test(name));
}

/** Reads a calculation as a sum; undefined if it is none. */
function readSum(nodes: readonly CssNodePlain[]): Sum | undefined {
  const terms: Term[] = [];
  let from = 0;
  let sign = one;
  const parts = nodes.filter((node) => node.type !== 'WhiteSpace');
  for (let at = 0; at <= parts.length; at++) {
    const node = parts[at];
    const operator = node?.type === 'Operator' ? node.value.trim() : undefined;
    if (node !== undefined && operator !== '+' && operator !== '-') continue;
    const product = readProduct(parts.slice(from, at));
    if (!product) return undefined;
    terms.push(...product.map((term) => ({ ...term, factor: multiply(term.factor, sign) })));
    sign = operator === '-' ? negate(one) : one;
    from = at + 1;
  }
  return collected(terms);
}

function readProduct(nodes: readonly CssNodePlain[]): Sum | undefined {
  const [first, ...rest] = nodes;
  if (!first || rest.length % 2 !== 0) return undefined;
  let sum = readOperand(first);
  for (let at = 0; sum && at < rest.length; at += 2) {
    const operator = rest[at]!;
    const operand = readOperand(rest[at + 1]!);
    if (operator.type !== 'Operator' || !operand) return undefined;
    sum = operator.value.trim() === '*' ? times(sum, operand) : over(sum, operand);
  }
  return sum;
}

function readOperand(node: CssNodePlain): Sum | undefined {
  if (node.type === 'Number' || node.type === 'Percentage' || node.type === 'Dimension') {
    if (node.type === 'Dimension' && !mathType(node)) return undefined;
    const factor = readDecimal(node.value);
    const unit = node.type === 'Number' ? '' : node.type === 'Percentage' ? '%' : node.unit.toLowerCase();
    // In a division, the sign of zero can decide.
    return factor && !/^-0*\.?0*$/.test(node.value) ? [{ factor, unit }] : undefined;
  }
  if (node.type === 'Parentheses') return readSum(node.children);
  if (node.type === 'Function' && node.name.toLowerCase() === 'calc') return readSum(node.children);
  if (node.type === 'Function') return [{ factor: one, unit: printComponent(node), node }];
  return undefined;
}

const plainNumber = (sum: Sum): Decimal | undefined =>
  sum.length === 1 && sum[0]!.unit === '' && !sum[0]!.node ? sum[0]!.factor : undefined;

function times(a: Sum, b: Sum): Sum | undefined {
  const factor = plainNumber(a) ?? plainNumber(b);
  if (!factor) return undefined;
  return (plainNumber(a) ? b : a).map((term) => ({ ...term, factor: multiply(term.factor, factor) }));
}

function over(a: Sum, b: Sum): Sum | undefined {
  const divisor = plainNumber(b);
  if (!divisor) return undefined;
  const terms = a.map((term) => ({ ...term, factor: divide(term.factor, divisor) }));
  return terms.every((term): term is Term => term.factor !== undefined) ? terms : undefined;
}

/**
 * Adds terms with the same unit; a zero is removed if another length preserves the type of the sum. Undefined if the
 * sum is invalid.
 */
function collected(terms: readonly Term[]): Sum | undefined {
  const known = terms.filter(({ node }) => !node);
  if (known.some(({ unit }) => unit === '') && known.some(({ unit }) => unit !== '')) return undefined;
  const byUnit = new Map<string, Term>();
  for (const term of terms) {
    const same = byUnit.get(term.unit);
    byUnit.set(term.unit, same ? { ...same, factor: add(same.factor, term.factor) } : term);
  }
  const all = [...byUnit.values()];
  const isZero = ({ factor, node }: Term): boolean => factor.digits === 0n && !node;
  const lengths = all.filter((term) => term.unit !== '%' && !term.node && !isZero(term));
  const kept = all.filter((term) => !(isZero(term) && term.unit !== '%' && lengths.length > 0));
  const hasPercentage = all.some(({ unit }) => unit === '%');
  if (kept.length > 1 && !hasPercentage && kept.every(isZero)) return [kept[0]!];
  return kept;
}

const isOne = (factor: Decimal): boolean => compareDecimals(factor, one) === 0;

function numberNode({ factor, unit }: Term): CssNodePlain {
  const value = printDecimal(factor);
  if (unit === '') return { type: 'Number', value };
  return unit === '%' ? { type: 'Percentage', value } : { type: 'Dimension', value, unit };
}

/** Prints a sum, with a positive term first if there is one. */
function writeSum(sum: Sum): CssNodePlain[] {
  const first = sum.findIndex(({ factor }) => factor.digits > 0n);
  const terms = first > 0 ? [sum[first]!, ...sum.filter((_, at) => at !== first)] : sum;
  return terms.flatMap((term, at): CssNodePlain[] => {
    const isMinus = at > 0 && compareDecimals(term.factor, zero) < 0;
    const shown = isMinus ? { ...term, factor: negate(term.factor) } : term;
    const node = shown.node ? writeOpaque(shown, shown.node) : [numberNode(shown)];
    return at === 0 ? node : [{ type: 'Operator', value: isMinus ? ' - ' : ' + ' }, ...node];
  });
}

function writeOpaque({ factor }: Term, node: CssNodePlain): CssNodePlain[] {
  if (isOne(factor)) return [node];
  return [{ type: 'Number', value: printDecimal(factor) }, { type: 'Operator', value: '*' }, node];
}
