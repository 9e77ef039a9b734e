import { execFileSync } from 'node:child_process';
import { cpSync, readdirSync, readFileSync, symlinkSync } from 'node:fs';
import { builtinModules } from 'node:module';
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
  project.write('package.json', readFileSync(join(clone, 'package.json')));
  cpSync(join(clone, 'dist'), project.path('dist'), { recursive: true });
  symlinkSync(join(clone, 'node_modules'), project.path('node_modules'));
  const { dependencies, peerDependencies = {} } = JSON.parse(project.read('package.json')) as Record<
    'dependencies' | 'peerDependencies',
    Record<string, string>
  >;
  const packages = Object.keys({ ...dependencies, ...peerDependencies }).flatMap((name) => [name, `${name}/*`]);
  const external = [...builtinModules.flatMap((name) => [name, `node:${name}`]), ...packages];
  project.write(
    'anvil.yaml',
    `browsers: last 1 chrome version\npipelines:\n  tool:\n    from: [dist/cli/bin.js, dist/index.js]\n    base: dist\n    to: out\n    steps: [{ link: { external: ${JSON.stringify(external)} } }, minify]\n`,
  );
  const { code, stderr } = await project.run(['build', '--quiet']);
  expect(code, stderr).toBe(0);
  const built = demoBuiltBy(project.path('out/cli/bin.js'));
  expect(Object.keys(built).length).toBeGreaterThan(10);
  expect(built).toEqual(demoBuiltBy(program));
});
