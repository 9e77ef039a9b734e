import { spawnSync } from 'node:child_process';
import { pathToFileURL } from 'node:url';
import type { Count } from '../measure.js';

/** An entry point of a package, and the file that it and all its modules are linked to. */
export interface LinkedPackage {
  readonly name: string;
  readonly entry: string;
  readonly bundle: string;
  /** True if nothing of the package is left out, so that what its values hold is compared as well. */
  readonly isWhole?: boolean;
}

/** Lets Node.js import packages as they are resolved for browsers, and modules that are written for linking: without extensions. */
const hooks = `data:text/javascript,${encodeURIComponent(`
import { existsSync, readFileSync } from 'node:fs';
const conditions = ['browser', 'module', 'import', 'default', process.env.NODE_ENV ?? 'development'];
function fileOf(name, parent) {
  for (let folder = new URL('.', parent); ; folder = new URL('..', folder)) {
    const file = new URL('node_modules/' + name + '/package.json', folder);
    if (existsSync(file)) {
      const { exports, browser, module, main } = JSON.parse(readFileSync(file, 'utf8'));
      const wanted = typeof browser === 'string' ? browser : (module ?? main);
      return exports === undefined && wanted !== undefined ? new URL(wanted, file).href : name;
    }
    if (folder.pathname === '/') return name;
  }
}
export async function resolve(specifier, context, next) {
  const isPackage = /^(@[^/]+\\/)?[^./:@][^/:]*$/.test(specifier) && context.parentURL?.startsWith('file:');
  const wanted = isPackage ? fileOf(specifier, context.parentURL) : specifier;
  for (const end of ['', '.js', '/index.js'])
    try { return await next(wanted + end, { ...context, conditions }); } catch (error) { if (end === '/index.js') throw error; }
}`)}`;

/** Compares the exports of two modules: their names and types, and what functions return for a few arguments. */
const comparison = `
import { register } from 'node:module';
Math.random = () => 0.5;
register(${JSON.stringify(hooks)});
const [entry, bundle, depths] = process.argv.slice(1);
const plain = await import(entry).catch((error) => console.log(JSON.stringify({ unusable: error.message })));
if (!plain) process.exit();
const linked = await import(bundle);
const inputs = () => [[], [0], [2.5], ['lantern'], [[3, 1, 2]], [{ star: 'Vega', rank: 2 }], ['a-b c', 2], [[1, 2], [2, 3]],
  [[1, 2, 3], (one) => one * 2], [(one) => one, 1], [null], [[{ rank: 1 }, { rank: 0 }], 'rank'], ['*night*\\n\\n- sky']];
// Without toJSON, which packages may add to their classes in modules that count as unused.
const shown = (value, seen = new Set()) => {
  if (typeof value === 'string') return JSON.stringify(value);
  if (typeof value !== 'object' || value === null) return typeof value === 'function' ? 'function' : String(value);
  if (seen.has(value) || seen.size > 500) return 'seen';
  seen.add(value);
  return '{' + Object.keys(value).map((key) => key + ': ' + shown(value[key], seen)).join(', ') + '}';
};
const outcome = (call, args) => {
  try {
    const value = call(...args);
    if (typeof value?.then === 'function') return (value.catch?.(() => undefined), 'promise');
    return shown(value);
  } catch (error) {
    return error instanceof Error ? error.name : 'thrown';
  }
};
const wrong = [];
let names = 0;
let calls = 0;
const compare = (name, ours, theirs, depth) => {
  names++;
  // Node.js lists names of files of CommonJS that are only required for development; they are undefined.
  if (typeof theirs !== typeof ours) return wrong.push(name);
  if (typeof theirs === 'function')
    for (const [at, args] of inputs().entries()) {
      const [one, other] = [outcome(theirs, args), outcome(theirs, inputs()[at])];
      const found = [outcome(ours, inputs()[at]), outcome(ours, inputs()[at])];
      if (one !== other) continue;
      calls++;
      if (!found.includes(one)) wrong.push(name + ' with ' + shown(args) + ': ' + found[0] + ' instead of ' + one);
    }
  else if (typeof theirs !== 'object' && shown(theirs) !== shown(ours)) wrong.push(name);
  if (depth < Number(depths) && theirs !== null && (typeof theirs === 'object' || typeof theirs === 'function'))
    for (const key of new Set([...Object.keys(theirs), ...Object.keys(ours)].slice(0, 300)))
      // Only CommonJS has a mark of ES modules.
      if (!['__esModule', 'module.exports'].includes(key)) compare(name + '.' + key, ours[key], theirs[key], depth + 1);
};
for (const name of new Set([...Object.keys(plain), ...Object.keys(linked)])) compare(name, linked[name], plain[name], 0);
console.log(JSON.stringify({ wrong, calls, names }));
process.exit();
`;

/** Counts the exports of linked packages that differ from what Node.js imports from their plain modules. */
export function bundleMeaning(packages: readonly LinkedPackage[]): (Count | string)[] {
  const unusable: string[] = [];
  const wrong: string[] = [];
  let compared = 0;
  for (const { name, entry, bundle, isWhole = false } of packages) {
    const urls = [entry, bundle].map((path) => pathToFileURL(path).href);
    const { stdout } = spawnSync(
      process.execPath,
      ['--no-warnings', '--input-type=module', '--eval', comparison, ...urls, isWhole ? '2' : '0'],
      { encoding: 'utf8', timeout: 120_000 },
    );
    const last = stdout.trim().split('\n').at(-1) ?? '';
    const result = last.startsWith('{')
      ? (JSON.parse(last) as { unusable?: string; wrong?: readonly string[]; calls?: number })
      : { wrong: ['it ended without a result'] };
    if (result.unusable !== undefined) unusable.push(`${name} (${result.unusable})`);
    wrong.push(...(result.wrong ?? []).map((one) => `${name}: ${one}`));
    compared += result.calls ?? 0;
  }
  const done = packages.length - unusable.length;
  return [
    {
      what: `exports of ${String(done)} linked packages, ${String(compared)} calls, that differ from those of plain modules in Node.js`,
      wrong: wrong.length,
      note: wrong[0],
    },
    ...(unusable.length > 0 ? [`not importable in Node.js: ${unusable.join(', ')}`] : []),
  ];
}
