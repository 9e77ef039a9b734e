import { execFileSync } from 'node:child_process';
import { cpSync, readdirSync, readFileSync, symlinkSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { program } from './support/program.js';

const clone = join(dirname(program), '../..');

/** The outputs of the demo, built by a program, as texts by path. */
function demoBuiltBy(bin: string): Record<string, string> {
  const demo = TestProject.demo();
  execFileSync(process.execPath, [bin, 'build'], { cwd: demo.root, stdio: 'pipe' });
  const files = readdirSync(demo.path('site'), { recursive: true, withFileTypes: true }).filter((one) => one.isFile());
  const paths = files.map((one) => join(one.parentPath, one.name).slice(demo.root.length + 1));
  return Object.fromEntries(paths.sort().map((path) => [path, demo.bytes(path).toString('latin1')]));
}

it('links this tool itself, hundreds of modules with workers and tables, which then builds the demo alike', async () => {
  const project = new TestProject();
  cpSync(join(clone, 'package.json'), project.path('package.json'));
  cpSync(join(clone, 'build/modules'), project.path('modules'), { recursive: true });
  symlinkSync(join(clone, 'node_modules'), project.path('node_modules'));
  project.write(
    'anvil.yaml',
    `browsers: node 20
pipelines:
  tool:
    from: [modules/cli/bin.js, modules/index.js]
    base: modules
    to: out
    steps: [{ link: { external: "*" } }, minify]
`,
  );
  expect(await project.run(['build', '--quiet'])).toMatchObject({ code: 0, stderr: '' });
  // It is a program of its own when it is installed.
  expect(readFileSync(program, 'utf8')).toMatch(/^#!\/usr\/bin\/env node\n/);
  const built = demoBuiltBy(project.path('modules/cli/bin.js'));
  expect(Object.keys(built).length).toBeGreaterThan(10);
  expect(demoBuiltBy(program)).toEqual(built);
  expect(demoBuiltBy(project.path('out/cli/bin.js'))).toEqual(built);
});

it('imports only packages that it declares, none of which runs a script when it is installed', () => {
  const read = (path: string): unknown => JSON.parse(readFileSync(join(clone, path), 'utf8'));
  const { dependencies, peerDependencies } = read('package.json') as Record<string, Record<string, string>>;
  const declared = new Set([...Object.keys(dependencies!), ...Object.keys(peerDependencies!)]);
  const dist = dirname(dirname(program));
  const scripts = readdirSync(dist, { recursive: true, encoding: 'utf8' }).filter((path) => path.endsWith('.js'));
  const imported = scripts.flatMap((path) =>
    [...readFileSync(join(dist, path), 'utf8').matchAll(/^import .*?from "((?:@[\w.-]+\/)?\w[\w.-]*)[/"]/gm)].map(
      (one) => one[1]!,
    ),
  );
  expect(imported).toContain('ordered-binary');
  expect([...new Set(imported)].filter((name) => !declared.has(name))).toEqual([]);
  const { packages } = read('package-lock.json') as {
    packages: Record<string, { dev?: true; hasInstallScript?: true }>;
  };
  const running = Object.entries(packages).filter(([, one]) => one.hasInstallScript && !one.dev);
  expect(running).toEqual([]);
});
