import { spawnSync } from 'node:child_process';
import { cpSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { minifyScript } from 'loyal-anvil';
import { clone } from '../corpus.js';
import type { Count } from '../measure.js';
import { installPackages } from '../packages.js';

/** Public packages with their tests, and the test runner. Dependencies are included if they ship tests. */
const wanted = (
  'array-includes@3.2.0 array.prototype.flat@1.3.3 call-bind@1.0.9 concat-map@0.0.2 deep-equal@2.2.3 ' +
  'es-to-primitive@1.3.4 function-bind@1.1.2 has-symbols@1.1.0 internal-slot@1.1.0 is-arrow-function@2.0.3 ' +
  'is-callable@1.2.7 is-regex@1.2.1 json-stable-stringify@1.3.0 minimist@1.2.8 mock-property@1.1.2 object-keys@1.1.1 ' +
  'object.assign@4.1.7 object.entries@1.1.9 object.values@1.2.1 qs@6.17.1 ' +
  'regexp.prototype.flags@1.5.4 string.prototype.matchall@4.1.0 string.prototype.trim@1.2.11 traverse@0.6.11 ' +
  'typedarray@0.0.7 tape@5.10.2'
).split(' ');

const folder = join(clone, 'bench/.libraries');

/** Counts published packages whose own tests have other results when all their scripts are minified. */
export function ownTests(): Count {
  installPackages(folder, wanted);
  const [before, after] = ['node_modules', 'minified/node_modules'].map((path) => join(folder, path)) as [
    string,
    string,
  ];
  rmSync(join(folder, 'minified'), { recursive: true, force: true });
  cpSync(before, after, { recursive: true });
  for (const path of scriptsIn(after)) {
    const text = readFileSync(path, 'utf8');
    const { text: small, diagnostics } = minifyScript(text, { preserveNames: true });
    if (diagnostics.length === 0) writeFileSync(path, small);
  }
  const packages = readdirSync(before).filter((name) => testsOf(join(before, name)).length > 0);
  const different: string[] = [];
  let passed = 0;
  for (const name of packages) {
    const [was, is] = [before, after].map((root) => outcome(root, name));
    passed += Number(/^# pass +(\d+)/m.exec(was!)?.[1] ?? 0);
    if (was !== is) different.push(`${name}: ${was!} became ${is!}`);
  }
  return {
    what: `packages whose own tests (${String(passed)} in all) end differently with all scripts minified, of ${String(packages.length)}`,
    wrong: different.length,
    note: different.slice(0, 3).join('; ') || undefined,
  };
}

const testsOf = (root: string): readonly string[] =>
  existsSync(join(root, 'test'))
    ? readdirSync(join(root, 'test')).flatMap((name) => {
        const path = join('test', name);
        return name.endsWith('.js') && readFileSync(join(root, path), 'utf8').includes("require('tape')") ? [path] : [];
      })
    : [];

/** Lists scripts, without tests and examples. */
function scriptsIn(root: string): readonly string[] {
  const paths = readdirSync(root, { recursive: true }) as string[];
  return paths
    .filter((path) => /\.(js|cjs|mjs)$/.test(path) && !/\/(tests?|examples?)\//.test(path))
    .map((path) => join(root, path))
    .filter((path) => existsSync(path));
}

/** The numbers of passed and failed tests of a package, and the exit code. */
function outcome(root: string, name: string): string {
  const cwd = join(root, name);
  const tape = join(root, 'tape/bin/tape');
  const { stdout, status } = spawnSync(process.execPath, [tape, ...testsOf(cwd)], {
    cwd,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
    timeout: 60_000,
  });
  const counts = stdout.match(/^# (tests|pass|fail) +\d+$/gm) ?? [];
  return [...counts, `exit ${String(status)}`].join('\n');
}
