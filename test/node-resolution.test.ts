import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import { resolveSpecifier } from '#modules/core/execute/node-resolution.js';
import { isFileAt } from '#modules/core/files/path-kind.js';
import { TestProject } from './support/project.js';
import { randomPackages } from './support/random-packages.js';

const seeds = Array.from({ length: 60 }, (_, at) => at + 1);

/** Asks Node.js for every request, from the file that makes it. */
const resolving = (list: readonly string[], resolve: string): string =>
  `${JSON.stringify(list)}.map((one) => { try { return ${resolve} } catch (error) { return error.code } })\n`;

/** The errors by which Node.js refuses what a package does not open. */
const refusals =
  /^ERR_(PACKAGE_PATH_NOT_EXPORTED|PACKAGE_IMPORT_NOT_DEFINED|INVALID_PACKAGE_TARGET|INVALID_MODULE_SPECIFIER)$/;

it('ends on replacements and names that lead to each other', () => {
  const manifest = { name: 'own', imports: { '#a': '#b', '#b': '#a' }, browser: { moon: 'tide', tide: 'moon' } };
  const bytes = Buffer.from(JSON.stringify(manifest));
  const files = { read: () => bytes, exists: (path: string) => path === 'package.json' };
  for (const specifier of ['#a', 'moon']) expect(resolveSpecifier(specifier, 'a.js', files)).toBeUndefined();
});

it('finds the files that Node.js finds with the same conditions, and refuses what packages do not open', async () => {
  const all = seeds.map((seed) => ({ seed, ...randomPackages(seed) }));
  const files: Record<string, string> = {};
  const importers = all.flatMap(({ seed, files: own, requests }) => {
    for (const [path, text] of Object.entries(own)) files[`p${String(seed)}/${path}`] = text;
    return Object.entries(requests).map(([path, list]) => {
      const isModule = path.endsWith('.mjs');
      files[`p${String(seed)}/${path}`] = isModule
        ? `export default ${resolving(list, 'import.meta.resolve(one)')}`
        : `module.exports = ${resolving(list, "require('node:url').pathToFileURL(require.resolve(one)).href")}`;
      return { root: `p${String(seed)}`, path, list, kind: isModule ? ('import' as const) : ('require' as const) };
    });
  });
  files['run.mjs'] = `const all = [];
for (const one of ${JSON.stringify(importers.map(({ root, path }) => `./${root}/${path}`))}) all.push((await import(one)).default);
console.log(JSON.stringify(all));\n`;
  const project = new TestProject(files);
  const conditions = ['browser', 'module', 'production'];
  const answers = JSON.parse(
    execFileSync(process.execPath, [...conditions.map((one) => `--conditions=${one}`), '--no-warnings', 'run.mjs'], {
      cwd: project.root,
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    }),
  ) as string[][];
  let [found, refused] = [0, 0];
  const different = importers.flatMap(({ root, path, list, kind }, importer) => {
    const full = join(project.root, root);
    const isFile = (one: string): boolean => isFileAt(join(full, one));
    const read = (one: string): Uint8Array | undefined => (isFile(one) ? readFileSync(join(full, one)) : undefined);
    return list.flatMap((specifier, at) => {
      const answer = answers[importer]![at]!;
      const ours = resolveSpecifier(specifier, path, { read, exists: isFile }, { kind, conditions });
      const theirs = answer.startsWith('file:') ? new URL(answer).pathname.slice(full.length + 1) : undefined;
      const isThere = theirs !== undefined && isFile(theirs);
      if (isThere) found++;
      else if (refusals.test(answer)) refused++;
      // Where Node.js finds nothing, packages without `exports` are read as browsers' packages are written.
      else return [];
      const expected = isThere ? theirs : undefined;
      return ours === expected ? [] : [`${root}/${path}: ${specifier} is ${String(expected)}, not ${String(ours)}`];
    });
  });
  expect(different).toEqual([]);
  expect(Math.min(found, refused)).toBeGreaterThan(500);
});
