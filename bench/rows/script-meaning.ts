import vm from 'node:vm';
import { minifyScript } from 'loyal-anvil';
import type { Corpus } from '../corpus.js';
import { randomProgram, runProgram } from '../random-program.js';

/** How many random programs are run before and after. */
const programs = 10_000;

/** Whether random programs, minified in two ways, still say the same. */
export function randomProgramMeaning(): string {
  const first = Date.now() % 1_000_000_000;
  const different: number[] = [];
  for (let seed = first; seed < first + programs; seed++) {
    const program = randomProgram(seed);
    const { text } = minifyScript(program, { module: false, preserveNames: seed % 4 === 0 });
    if (runProgram(program) !== runProgram(text)) different.push(seed);
  }
  return (
    `meaning of ${String(programs)} random programs (from seed ${String(first)}): ${String(different.length)} differ` +
    (different.length > 0 ? `: seeds ${different.slice(0, 8).join(', ')}` : '')
  );
}

/** The libraries of the corpus that need no page, and the name under which each is found. */
const libraries: Readonly<Record<string, string>> = { lodash: '_', underscore: '_', luxon: 'luxon' };

const values: readonly string[] = [
  ...[
    'undefined',
    'null',
    '0',
    '-1.5',
    '"Fernlight"',
    '""',
    '[3, 1, 2]',
    '[[1, "a"], [2, "b"]]',
    '{ a: 1, b: { c: 2 } }',
  ],
  ...['x => x', '(a, b) => a > b', 'true', '/e/g', '"2026-11-23"', '[{ n: 2 }, { n: 1 }]', '"n"', '2'],
];

/** Whether the functions of libraries give the same for the same arguments, minified or not. */
export function libraryMeaning(corpus: Corpus): string[] {
  return corpus.scripts.flatMap((file) => {
    const name = libraries[file.package];
    if (name === undefined) return [];
    const text = corpus.read(file);
    const [before, after] = [text, minifyScript(text).text].map((script) => calls(script, name));
    const different = before!.filter((line, index) => line !== after![index]);
    return [
      `meaning of ${file.package}: ${String(before!.length)} calls of its functions, ${String(different.length)} differ` +
        (different[0] === undefined ? '' : `: ${different[0].slice(0, 200)}`),
    ];
  });
}

/** Calls every function of a library with the same arguments in the same order; what each gives, or that it fails. */
function calls(script: string, name: string): string[] {
  const context = vm.createContext({ values: values.join(', ') });
  // Neither the source of a function nor the clock and chance may show.
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
      const make = () => [${values.map((value) => `(${value})`).join(', ')}];
      const found = [];
      const visit = (object, path) => {
        for (const key of Object.getOwnPropertyNames(object).sort()) {
          if (/^(caller|callee|arguments|prototype|length|name|constructor|runInContext|noConflict|mixin|now|times|delay|defer|range\\w*|pad\\w*|repeat)$/.test(key)) continue;
          const value = object[key];
          if (typeof value !== 'function') continue;
          for (let one = 0; one < ${String(values.length)}; one++)
            for (let other = 0; other < ${String(values.length)}; other += 3) {
              const list = make();
              let result;
              try { result = show(value.call(object, list[one], list[other]), 0); } catch (error) { result = 'fails: ' + error.name; }
              found.push(path + key + '#' + one + ',' + other + ' ' + result);
            }
          if (path === '') visit(value, key + '.');
        }
      };
      visit(library, '');
      return found;
    })()`,
    context,
    { timeout: 60_000 },
  ) as string[];
  return [...lines];
}
