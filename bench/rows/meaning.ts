import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { minifyStyle } from 'loyal-anvil';
import { copyDemo } from '../../test/support/demo.js';
import { program } from '../../test/support/program.js';
import { clone, oracles, type Corpus } from '../corpus.js';
import type { Chance, Count } from '../measure.js';
import { randomBlockMeaning } from './block-meaning.js';
import { ownTests } from './own-tests.js';
import { pageMeaning } from './page-meaning.js';
import { sheetLooks } from './sheet-looks.js';
import { libraryMeaning, randomProgramMeaning } from './script-meaning.js';
import { randomSheet } from '../../test/support/random-sheet.js';

/** Checks that minified files have the same meaning, with independent checks where they are installed. */
export async function* meaning(corpus: Corpus, chance: Chance): AsyncGenerator<Count | string> {
  if (!existsSync(oracles)) {
    yield 'meaning: the independent checks are not on this machine';
    return;
  }
  const work = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  try {
    yield* sheetMeaning(corpus, work);
    yield* demoMeaning(work);
    yield scriptMeaning(work);
    yield* libraryMeaning(corpus, chance);
    yield ownTests();
    yield* await pageMeaning(corpus);
    yield randomProgramMeaning(chance);
    yield randomMeaning(work, chance);
    yield await randomBlockMeaning(chance);
    yield await sheetLooks(chance);
  } finally {
    rmSync(work, { recursive: true });
  }
}

function sheetMeaning(corpus: Corpus, work: string): Count[] {
  const results = compared(
    corpus.styles.map((file) => corpus.read(file)),
    work,
  );
  return results.map((result, index) => counted(corpus.styles[index]!.package, result));
}

/** The sheets of the demo, before and after minifying. */
function demoMeaning(work: string): Count[] {
  const root = join(work, 'demo');
  copyDemo(clone, root);
  spawnSync(process.execPath, [program, 'build', '--profile', 'development'], { cwd: root });
  const sheets = (readdirSync(join(root, 'site'), { recursive: true }) as string[]).filter((path) =>
    path.endsWith('.css'),
  );
  const results = compared(
    sheets.map((path) => readFileSync(join(root, 'site', path), 'utf8')),
    work,
  );
  return results.map((result, index) => counted(`the demo’s ${sheets[index]!}`, result));
}

/** The number of compared random sheets, and the number in one comparison. */
const randomSheets = 1000;
const atATime = 100;

function randomMeaning(work: string, { seed, times }: Chance): Count {
  const sheets = fc.sample(randomSheet, { numRuns: randomSheets * times, seed });
  const results: Compared[] = [];
  for (let at = 0; at < sheets.length; at += atATime) results.push(...compared(sheets.slice(at, at + atATime), work));
  const different = results.flatMap(({ differences }, at) => (differences.length > 0 ? [{ at, differences }] : []));
  const first = different[0];
  return {
    what: `random sheets with another meaning, of ${String(results.length)} (seed ${String(seed)})`,
    wrong: different.length,
    note: first && `${first.differences.join('; ')} in\n${sheets[first.at]!}`,
  };
}

interface Compared {
  readonly rules: number;
  readonly count: number;
  readonly differences: readonly string[];
}

const counted = (name: string, { rules, count, differences }: Compared): Count => ({
  what: `differences in ${name}, of ${String(rules)} rules`,
  wrong: count,
  note: count === 0 ? undefined : differences.slice(0, 3).join('; '),
});

/** Compares sheets with their minified versions in a real browser. */
function compared(sheets: readonly string[], work: string): Compared[] {
  const pairs = sheets.flatMap((text, index) => {
    const [before, after] = ['before', 'after'].map((name) => join(work, `${String(index)}.${name}.css`));
    writeFileSync(before!, text);
    writeFileSync(after!, minifyStyle(text).text);
    return [before!, after!];
  });
  const { stdout, stderr } = spawnSync(process.execPath, [join(oracles, 'css-same.mjs'), ...pairs], {
    cwd: clone,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  const results = stdout
    .split(/(?<=^\})\n/m)
    .filter((text) => text.trim() !== '')
    .map((text) => JSON.parse(text) as Compared);
  if (results.length !== sheets.length) throw new Error(`the check of sheets failed: ${stderr.slice(0, 400)}`);
  return results;
}

function scriptMeaning(work: string): Count {
  const archive = join(oracles, 'test262.tar.gz');
  const suite = join(work, 'suite');
  const adapter = join(work, 'adapter.mjs');
  mkdirSync(suite);
  spawnSync('tar', ['xzf', archive, '-C', suite]);
  writeFileSync(
    adapter,
    `import { minifyScript } from ${JSON.stringify(join(clone, 'dist/index.js'))};
export function minify(text, { module }) {
  const { text: small, diagnostics } = minifyScript(text, { module, preserveNames: true });
  if (diagnostics.length > 0) throw new Error(diagnostics[0].message);
  return small;
}
`,
  );
  const { stdout, stderr } = spawnSync(
    process.execPath,
    [
      '--experimental-vm-modules',
      '--no-warnings',
      join(oracles, 'test262-same.mjs'),
      '--suite',
      suite,
      '--adapter',
      adapter,
    ],
    { encoding: 'utf8', maxBuffer: 1 << 28 },
  );
  try {
    const { ran, broken, refused } = JSON.parse(stdout) as { ran: number; broken: number; refused: number };
    return {
      what: `conformance tests broken or refused, of ${String(ran)}`,
      wrong: broken + refused,
    };
  } catch {
    throw new Error(`the check of scripts failed: ${(stderr || readFileSync(adapter, 'utf8')).slice(0, 400)}`);
  }
}
