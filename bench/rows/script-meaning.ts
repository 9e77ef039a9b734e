import vm from 'node:vm';
import fc from 'fast-check';
import { minifyScript } from 'loyal-anvil';
import type { Corpus } from '../corpus.js';
import type { Chance, Count } from '../measure.js';
import { randomProgram, sayTheSame } from '../../test/support/random-program.js';

/** The number of random programs. */
const programs = 4_000;

/** Compares the logs of random programs before and after minifying, with two sets of options. */
export function randomProgramMeaning({ seed: first, times }: Chance): Count {
  const count = programs * times;
  const different: number[] = [];
  for (let seed = first; seed < first + count; seed++) {
    const program = randomProgram(seed);
    const { text } = minifyScript(program, { preserveNames: seed % 4 === 0 });
    if (!sayTheSame([program], text)) different.push(seed);
  }
  return {
    what: `random programs that behave differently, of ${String(count)} (from seed ${String(first)})`,
    wrong: different.length,
    note: different.length > 0 ? `seeds ${different.slice(0, 8).join(', ')}` : undefined,
  };
}

/** The libraries of the corpus that need no page, by package, with their global names. */
const libraries: Readonly<Record<string, string>> = { lodash: '_', underscore: '_', luxon: 'luxon' };

/** A value as source text, since each script runs in its own context. */
const value: fc.Arbitrary<string> = fc.letrec<{ value: string }>((tie) => ({
  value: fc.oneof(
    { maxDepth: 3, depthSize: 'small' },
    fc.constantFrom('undefined', 'null', 'true', 'false', 'NaN', '-0', '""', 'new Date(1000)', '/e./gi'),
    fc.constantFrom('x => x', '(a, b) => a > b', 'function () { return this }', '(a, b) => a + b', '() => { throw 1 }'),
    fc.integer({ min: -20, max: 100 }).map(String),
    fc.double({ min: -1000, max: 1000, noNaN: true }).map(String),
    fc.string({ maxLength: 12 }).map((text) => JSON.stringify(text)),
    fc.constantFrom('"Fernlight"', '"n"', '"a.b[0]"', '"2026-11-23T21:30:00+01:00"', '"yyyy-MM-dd HH:mm"', '"minutes"'),
    fc.array(tie('value'), { maxLength: 4 }).map((list) => `[${list.join()}]`),
    fc.dictionary(fc.constantFrom('a', 'b', 'n', 'year', 'hours', 'zone'), tie('value'), { maxKeys: 3 }).map(
      (all) =>
        `({${Object.entries(all)
          .map(([key, one]) => `${key}: ${one}`)
          .join()}})`,
    ),
  ),
})).value;

/** The number of argument lists for every function. */
const argumentLists = 150;

/** Compares the results of library functions for the same arguments, minified or not. */
export function libraryMeaning(corpus: Corpus, { seed }: Chance): Count[] {
  const lists = fc.sample(fc.array(value, { maxLength: 3 }), { numRuns: argumentLists, seed });
  return corpus.scripts.flatMap((file) => {
    const name = libraries[file.package];
    if (name === undefined) return [];
    const text = corpus.read(file);
    const [before, after] = [text, minifyScript(text).text].map((script) => calls(script, name, lists));
    const different = before!.filter((line, index) => line !== after![index]);
    const failing = before!.filter((line) => line.includes(' fails: ')).length;
    return [
      {
        what: `calls of ${file.package} with another result, of ${String(before!.length)} (seed ${String(seed)}; ${String(failing)} of them fail)`,
        wrong: different.length,
        note: different[0]?.slice(0, 200),
      },
    ];
  });
}

/** Functions that are not called: they wait, never end, or change the library itself. */
const leftOut =
  /^(caller|callee|arguments|prototype|length|name|constructor|runInContext|noConflict|mixin|now|delay|defer|range\w*|fill)$/;

/** Calls every function of a library with the same arguments in the same order; returns the results and errors. */
function calls(script: string, name: string, lists: readonly (readonly string[])[]): string[] {
  const context = vm.createContext({});
  // Results must not depend on the source text of functions, the clock, or random numbers.
  vm.runInContext(
    'Function.prototype.toString = () => "function () { [native code] }"; Math.random = () => 0.5; Date.now = () => 1e12;',
    context,
  );
  vm.runInContext(script, context);
  const lines = vm.runInContext(
    `(() => {
      const library = ${name};
      const show = (value, depth) => {
        if (typeof value === 'function') return 'function';
        if (typeof value !== 'object' || value === null || depth > 3) return typeof value + String(value && typeof value === 'object' ? '' : value);
        return '{' + Object.keys(value).slice(0, 12).map((key) => key + ':' + show(value[key], depth + 1)).join() + '}';
      };
      const makers = [${lists.map((list) => `() => [${list.join()}]`).join()}];
      const found = [];
      const visit = (object, path) => {
        for (const key of Object.getOwnPropertyNames(object).sort()) {
          if (${String(leftOut)}.test(key) || typeof object[key] !== 'function') continue;
          makers.forEach((make, at) => {
            let result;
            try { result = show(object[key](...make()), 0); } catch (error) { result = 'fails: ' + (error && error.name); }
            found.push(path + key + '#' + at + ' ' + result);
          });
          if (path === '') visit(object[key], key + '.');
        }
      };
      visit(library, '');
      return found;
    })()`,
    context,
    { timeout: 120_000 },
  ) as string[];
  return [...lines];
}
