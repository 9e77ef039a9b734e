import { Random } from './random.js';

/** Installed packages, and requests of which Node.js tells what they lead to. */
export interface RandomPackages {
  readonly files: Readonly<Record<string, string>>;
  /** The requests of each file, relative to the project. */
  readonly requests: Readonly<Record<string, readonly string[]>>;
}

const names = ['moon', 'tide', '@fern/moss', '@fern/light'];
const files = [
  'index.js',
  'main.js',
  'lib/index.js',
  'lib/dim.js',
  'lib/dim.min.js',
  'es/a.mjs',
  'es/b.mjs',
  'c.cjs',
  'data.json',
];
const subpaths = [
  './lib',
  './lib/dim',
  './lib/dim.js',
  './es/*',
  './es/*.mjs',
  './data.json',
  './a',
  './b',
  './a/*/x',
  './*',
];
const conditions = ['import', 'require', 'browser', 'production', 'development', 'module', 'default', 'unheard'];

/**
 * Random packages: `exports` and `imports` with conditions, patterns and fallbacks, `main` in all forms, folders with a
 * package.json of their own, nested copies, and self-references.
 *
 * @param seed the same seed makes the same packages
 */
export function randomPackages(seed: number): RandomPackages {
  const random = new Random(seed);
  const result: Record<string, string> = {};
  const requests: Record<string, string[]> = {};
  const folders = names.map((name) => `node_modules/${name}`);
  if (random.chance(0.5)) folders.push(`node_modules/moon/node_modules/${random.pick(names)}`);
  for (const folder of folders) {
    const name = /.*node_modules\/(.*)/.exec(folder)![1]!;
    const own = files.filter(() => random.chance(0.8));
    for (const file of own) result[`${folder}/${file}`] = file.endsWith('.json') ? '{}' : '';
    if (random.chance(0.3)) {
      result[`${folder}/lib/package.json`] = JSON.stringify({
        main: random.pick(['dim.js', './dim', '../main.js', 'no.js']),
      });
    }
    const manifest: Record<string, unknown> = { name };
    if (random.chance(0.6))
      manifest['main'] = random.pick(['main.js', './main', 'lib', './lib/', 'no.js', 'c.cjs', 'data.json']);
    if (random.chance(0.6)) manifest['exports'] = exportsOf(random, own);
    if (random.chance(0.5)) manifest['imports'] = importsOf(random, own);
    if (random.chance(0.3)) manifest['type'] = random.pick(['module', 'commonjs']);
    result[`${folder}/package.json`] = JSON.stringify(manifest);
  }
  for (const folder of ['src', ...folders])
    for (const kind of ['mjs', 'cjs']) {
      const file = `${folder}/probe.${kind}`;
      result[file] = '';
      requests[file] = Array.from({ length: 12 }, () => specifier(random, kind === 'cjs'));
    }
  return { files: result, requests };
}

function specifier(random: Random, isRequired: boolean): string {
  const form = random.between(0, 9);
  if (form === 0) return random.pick(['#a', '#b/x', '#b/es/a', '#none']);
  if (form === 1) return `./${random.pick(files)}`;
  const name = random.pick(names);
  if (form < 5) return name;
  const subpath = random.pick([...files, 'a', 'b', 'a/q/x', 'es/a', 'none', 'package.json']);
  // Only CommonJS finds folders and leaves out extensions.
  return `${name}/${isRequired && random.chance(0.3) ? random.pick(['lib', 'lib/dim', 'main', 'data']) : subpath}`;
}

function exportsOf(random: Random, own: readonly string[]): unknown {
  if (random.chance(0.2)) return target(random, own, 2);
  const entries = subpaths
    .filter(() => random.chance(0.35))
    .map((one) => [one, target(random, own, 2, one.includes('*'))]);
  return Object.fromEntries([...(random.chance(0.8) ? [['.', target(random, own, 2)]] : []), ...entries]) as unknown;
}

function importsOf(random: Random, own: readonly string[]): unknown {
  const other = (): unknown => (random.chance(0.4) ? random.pick(names) : target(random, own, 1));
  return { '#a': other(), '#b/*': target(random, own, 1, true), ...(random.chance(0.3) && { '#b/x': other() }) };
}

/** A target: a path, conditions, a list, or nothing. */
function target(random: Random, own: readonly string[], depth: number, isPattern = false): unknown {
  const path = (): string =>
    isPattern
      ? random.pick(['./es/*.mjs', './lib/*.js', './*', './es/*', './lib/*/index.js'])
      : `./${random.pick(own.length > 0 && random.chance(0.9) ? own : files)}`;
  if (depth > 0 && random.chance(0.5)) {
    const keys = conditions.filter(() => random.chance(0.4));
    return Object.fromEntries(keys.map((key) => [key, target(random, own, depth - 1, isPattern)]));
  }
  if (random.chance(0.06)) return null;
  return random.chance(0.06) ? ['not-relative', path()] : path();
}
