import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { minifyStyle } from 'loyal-anvil';
import { clone, oracles, type Corpus } from '../corpus.js';

/** Whether what is minified still means the same, by the independent checks beside the project, where they are. */
export function meaning(corpus: Corpus): string[] {
  if (!existsSync(oracles)) return ['meaning: the independent checks are not on this machine'];
  const work = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  try {
    return [...sheetMeaning(corpus, work), scriptMeaning(work)];
  } finally {
    rmSync(work, { recursive: true });
  }
}

function sheetMeaning(corpus: Corpus, work: string): string[] {
  const pairs = corpus.styles.flatMap((file, index) => {
    const after = join(work, `${String(index)}.css`);
    writeFileSync(after, minifyStyle(corpus.read(file)).text);
    return [corpus.path(file), after];
  });
  const { stdout, stderr } = spawnSync(process.execPath, [join(oracles, 'css-same.mjs'), ...pairs], {
    cwd: clone,
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  const results = stdout
    .split(/(?<=^\})\n/m)
    .filter((text) => text.trim() !== '')
    .map((text) => JSON.parse(text) as { rules: number; count: number; differences: string[] });
  if (results.length !== corpus.styles.length) return [`meaning of sheets: the check failed: ${stderr.slice(0, 400)}`];
  return results.map(
    ({ rules, count, differences }, index) =>
      `meaning of ${corpus.styles[index]!.package}: ${String(rules)} rules, ${count === 0 ? 'no difference' : `${String(count)} differences: ${differences.slice(0, 3).join('; ')}`}`,
  );
}

function scriptMeaning(work: string): string {
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
    return `meaning of scripts: ${String(ran)} tests of the language’s conformance suite, ${String(broken)} broken, ${String(refused)} refused`;
  } catch {
    return `meaning of scripts: the check failed: ${(stderr || readFileSync(adapter, 'utf8')).slice(0, 400)}`;
  }
}
