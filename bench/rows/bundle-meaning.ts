import { spawnSync } from 'node:child_process';
import { pathToFileURL } from 'node:url';
import type { Count } from '../measure.js';

/** An entry point of a package, and the file that it and all its modules are linked to. */
export interface LinkedPackage {
  readonly name: string;
  readonly entry: string;
  readonly bundle: string;
}

/** Lets Node.js import modules of packages that are written for linking: without extensions, or without a declared type. */
const hooks = `data:text/javascript,${encodeURIComponent(`
export async function resolve(specifier, context, next) {
  for (const end of ['', '.js', '/index.js'])
    try { return await next(specifier + end, context); } catch (error) { if (end === '/index.js') throw error; }
}
export async function load(url, context, next) {
  const loaded = await next(url, context.format === 'commonjs' ? { ...context, format: 'module' } : context);
  if (context.format !== 'commonjs') return loaded;
  return /^\\s*(import|export)\\b/m.test(String(loaded.source)) ? loaded : next(url, context);
}`)}`;

/** Compares the exports of two modules: their names and types, and what functions return for a few arguments. */
const comparison = `
import { register } from 'node:module';
Math.random = () => 0.5;
register(${JSON.stringify(hooks)});
const [entry, bundle] = process.argv.slice(1);
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
// \`export *\` leaves the default export out, and only CommonJS has a mark of ES modules.
const names = new Set([...Object.keys(plain), ...Object.keys(linked)].filter((name) => !['default', '__esModule', 'module.exports'].includes(name)));
let calls = 0;
for (const name of names) {
  if (typeof plain[name] !== typeof linked[name] || name in plain !== name in linked) wrong.push(name);
  else if (typeof plain[name] === 'function')
    for (const [at, args] of inputs().entries()) {
      const [one, other] = [outcome(plain[name], args), outcome(plain[name], inputs()[at])];
      const ours = [outcome(linked[name], inputs()[at]), outcome(linked[name], inputs()[at])];
      if (one !== other) continue;
      calls++;
      if (!ours.includes(one)) wrong.push(name + ' with ' + shown(args) + ': ' + ours[0] + ' instead of ' + one);
    }
}
console.log(JSON.stringify({ wrong, calls, names: names.size }));
process.exit();
`;

/** Counts the exports of linked packages that differ from what Node.js imports from their plain modules. */
export function bundleMeaning(packages: readonly LinkedPackage[]): (Count | string)[] {
  const unusable: string[] = [];
  const wrong: string[] = [];
  let compared = 0;
  for (const { name, entry, bundle } of packages) {
    const urls = [entry, bundle].map((path) => pathToFileURL(path).href);
    const { stdout } = spawnSync(
      process.execPath,
      ['--no-warnings', '--input-type=module', '--eval', comparison, ...urls],
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
