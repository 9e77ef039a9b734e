import { inspect } from 'node:util';
import { createContext, runInContext } from 'node:vm';
import fc from 'fast-check';

const leaves = [
  ...['0', '1', '-1', '2', '3', '0.1', '.5', '1e21', '1e-7', '0x10', '2147483648', '4294967295', '-2147483649'],
  ...['9007199254740993', 'NaN', 'Infinity', '-Infinity', '1n', '2n', 'true', 'false', 'null', 'undefined', 'void 0'],
  ...['""', '"a"', '"b\\n"', '"\\u2028"', '"0"', '" 12 "', '"${x}"', '"`"', '"length"'],
  ...['[]', '[1, 2]', '({})', '(()=>1)', '/a/', 'x', 'y', 's', 'n'],
];
const operators = ['+', '-', '*', '/', '%', '**', '|', '&', '^', '<<', '>>', '>>>', '&&', '||', ',', '??'];
const comparisons = ['<', '<=', '>', '>=', '==', '!=', '===', '!=='];
const members = ['.length', '?.length', '["length"]', '[0]', '[1]', '.toString()'];

/** Expressions of literals and a few names, which a minifier evaluates as far as possible. */
export const randomExpression = fc.letrec<{ any: string }>((tie) => ({
  any: fc.oneof(
    { maxDepth: 4 },
    fc.constantFrom(...leaves),
    fc
      .tuple(fc.constantFrom(...operators, ...comparisons), tie('any'), tie('any'))
      .map(([operator, left, right]) => `((${left}) ${operator} (${right}))`),
    fc
      .tuple(fc.constantFrom('!', '-', '+', '~', 'typeof ', 'void '), tie('any'))
      .map(([operator, argument]) => `(${operator}(${argument}))`),
    fc
      .tuple(tie('any'), tie('any'), tie('any'))
      .map(([test, consequent, alternate]) => `((${test}) ? (${consequent}) : (${alternate}))`),
    fc.tuple(tie('any'), tie('any')).map(([first, second]) => `\`p\${${first}}q\${${second}}\``),
    fc.tuple(tie('any'), fc.constantFrom(...members)).map(([object, member]) => `(${object})${member}`),
    tie('any').map((item) => `[${item}, ...[${item}]]`),
    tie('any').map((value) => `(y = [${value}])[0]`),
  ),
})).any;

/** The values of `out` and `y` after running a script, or the name of its error. */
export function valuesOf(script: string): string {
  const context = createContext({ x: 3, y: -0, s: 'str', n: null });
  try {
    runInContext(script, context, { timeout: 1000 });
    return inspect([context['out'], context['y']], { depth: 8 });
  } catch (error) {
    return (error as Error).name;
  }
}
