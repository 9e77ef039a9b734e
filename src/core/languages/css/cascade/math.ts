import { lexer, type CssNodePlain } from 'css-tree';
import { splitAtCommas } from '../commas.js';

/**
 * The type of a calculation: the type of its unit, whether it has percentages, or nothing for a plain number (CSS
 * Values Level 4, section 10.9). Products of two units, which only new browsers support, have none.
 */
export interface MathType {
  readonly unit?: string | undefined;
  readonly isPercentage: boolean;
}

/** The arity of a function, and the type of its result. */
interface MathFunction {
  readonly least: number;
  readonly most: number;
  readonly takes: 'same' | 'numbers' | 'angle';
  readonly gives: 'same' | 'number' | 'angle';
}

const same = (least: number, most = least): MathFunction => ({ least, most, takes: 'same', gives: 'same' });
const ofNumbers = (least: number, most = least): MathFunction => ({ least, most, takes: 'numbers', gives: 'number' });
const ofAngle: MathFunction = { least: 1, most: 1, takes: 'angle', gives: 'number' };
const toAngle: MathFunction = { least: 1, most: 1, takes: 'numbers', gives: 'angle' };

/** The functions that calculate (CSS Values Level 4, section 10). */
const functions: Readonly<Record<string, MathFunction>> = {
  calc: same(1),
  min: same(1, Infinity),
  max: same(1, Infinity),
  clamp: same(3),
  round: same(1, 2),
  mod: same(2),
  rem: same(2),
  abs: same(1),
  hypot: same(1, Infinity),
  sign: { least: 1, most: 1, takes: 'same', gives: 'number' },
  sqrt: ofNumbers(1),
  pow: ofNumbers(2),
  log: ofNumbers(1, 2),
  exp: ofNumbers(1),
  sin: ofAngle,
  cos: ofAngle,
  tan: ofAngle,
  asin: toAngle,
  acos: toAngle,
  atan: toAngle,
  atan2: { least: 2, most: 2, takes: 'same', gives: 'angle' },
};

const number: MathType = { isPercentage: false };
const constants = /^(e|pi|-?infinity|nan)$/i;
const roundings = /^(nearest|up|down|to-zero)$/i;

/** The kind of each unit. */
const kinds = new Map(
  Object.entries((lexer as unknown as { units: Readonly<Record<string, readonly string[]>> }).units).flatMap(
    ([kind, units]) => units.map((unit) => [unit, kind] as const),
  ),
);

/** Reports whether a function is a mathematical one. */
export const isMath = (name: string): boolean => Object.hasOwn(functions, name.toLowerCase());

/** The type of a calculation; undefined if it is invalid or contains something of unknown type. */
export function mathType(node: CssNodePlain): MathType | undefined {
  switch (node.type) {
    case 'Number':
      return number;
    case 'Percentage':
      return { isPercentage: true };
    case 'Dimension': {
      const unit = kinds.get(node.unit.toLowerCase());
      return unit === undefined || unit === 'flex' ? undefined : { unit, isPercentage: false };
    }
    case 'Identifier':
      return constants.test(node.name) ? number : undefined;
    case 'Parentheses':
      return sumType(node.children);
    case 'Function':
      return functionType(node.name.toLowerCase(), node.children);
    default:
      return undefined;
  }
}

function functionType(name: string, children: readonly CssNodePlain[]): MathType | undefined {
  if (!isMath(name)) return undefined;
  const { least, most, takes, gives } = functions[name]!;
  const parts = splitAtCommas(children.filter(({ type }) => type !== 'WhiteSpace'));
  const [first] = parts[0] ?? [];
  // e.g. round(up, 1.5px, 1px)
  if (name === 'round' && parts.length > 1 && first?.type === 'Identifier' && roundings.test(first.name)) parts.shift();
  if (parts.length < least || parts.length > most) return undefined;
  const type = parts.map(sumType).reduce<MathType | undefined>(added, first && sumType(parts[0]!));
  if (!type) return undefined;
  const isNumber = type.unit === undefined && !type.isPercentage;
  if (takes === 'numbers' && !isNumber) return undefined;
  if (takes === 'angle' && !isNumber && type.unit !== 'angle') return undefined;
  return gives === 'same' ? type : gives === 'angle' ? { unit: 'angle', isPercentage: false } : number;
}

function sumType(nodes: readonly CssNodePlain[]): MathType | undefined {
  const terms: CssNodePlain[][] = [[]];
  for (const node of nodes) {
    if (node.type === 'WhiteSpace') continue;
    const sign = node.type === 'Operator' ? node.value : '';
    if (sign.trim() !== '+' && sign.trim() !== '-') terms.at(-1)!.push(node);
    // Without space on both sides, it is none of the operators.
    else if (/^\s+\S\s+$/.test(sign)) terms.push([]);
    else return undefined;
  }
  return terms.map(productType).reduce<MathType | undefined>(added, productType(terms[0]!));
}

function productType([first, ...rest]: readonly CssNodePlain[]): MathType | undefined {
  let type = first && mathType(first);
  for (let at = 0; type && at < rest.length; at += 2) {
    const operator = rest[at]!;
    const operand = rest[at + 1] && mathType(rest[at + 1]!);
    const sign = operator.type === 'Operator' ? operator.value.trim() : '';
    if (!operand || (sign !== '*' && sign !== '/')) return undefined;
    const isPlain = operand === number;
    if (!isPlain && (sign === '/' || type !== number)) return undefined;
    if (!isPlain) type = operand;
  }
  return type;
}

/** The type of a sum of two; undefined if they cannot be added. */
function added(a: MathType | undefined, b: MathType | undefined): MathType | undefined {
  if (!a || !b) return undefined;
  const isPlain = ({ unit, isPercentage }: MathType): boolean => unit === undefined && !isPercentage;
  if (isPlain(a) !== isPlain(b)) return undefined;
  if (isPlain(a)) return number;
  if (a.unit !== undefined && b.unit !== undefined && a.unit !== b.unit) return undefined;
  return { unit: a.unit ?? b.unit, isPercentage: a.isPercentage || b.isPercentage };
}
