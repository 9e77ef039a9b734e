import { readFileSync } from 'node:fs';
import { expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Random } from './support/random.js';

/** The first seed; a new one each time. */
const firstSeed = Number(process.env['SEED'] ?? Math.floor(Math.random() * 1e6));

const projects = Number(process.env['PROJECTS'] ?? 3);

/** Sources of which several are entry points, and that share others. */
const sources = (random: Random): Record<string, string> => ({
  'src/one.ts': `import { shared } from './shared';\nimport './one.css';\nimport('./lazy').then(({ late }) => console.log(late));\nconsole.log(shared<string>('one'), ${String(random.between(0, 9))});\n`,
  'src/two.ts': `import { shared } from './shared';\nimport './one.css';\nimport data from './data.json' with { type: 'json' };\nexport const two: unknown = shared(data);\nconsole.log(two, new URL('./note.txt?x', import.meta.url).href.length > 0);\n`,
  'src/three.ts': `export * from './two';\nimport * as all from './shared';\nconsole.log(Object.keys(all));\n`,
  'src/shared.ts': `/*! Fernlight */\nexport const shared = <T>(value: T): T => value ?? ({} as T);\nexport let count = ${String(random.between(0, 9))};\n`,
  'src/lazy.ts': `import { count } from './shared';\nexport const late: number = count + 1;\n`,
  'src/one.css': '@import "./two.css";\n.dome { user-select: none; color: #ff0000 }\n',
  'src/two.css': '.moon { margin: 0px 0px }\n',
  'src/data.json': '{ "open": [20, 22] }\n',
  'src/note.txt': 'Closed on Mondays.\n',
  'pass.mjs': 'export default () => undefined;\n',
  'tsconfig.json':
    '{ "compilerOptions": { "verbatimModuleSyntax": true, "module": "esnext", "moduleResolution": "bundler" } }\n',
  'package.json': '{ "type": "module", "name": "fernlight" }\n',
});

/** Steps in a valid order: some before linking, and some after it. */
function chain(random: Random): string[] {
  const some = (...steps: readonly string[]): string[] => steps.filter(() => random.chance(0.45));
  const before = some(
    'check: { run: node -e 0, reads: src/*.ts }',
    'run: { command: node -e 0, gather: true, reads: src/one.ts }',
    'cut',
  );
  const after = some(
    'apply: { module: pass.mjs, gather: true }',
    'check: { run: node -e 0, reads: src/*.ts }',
    'licences: licences.txt',
  );
  const last = some('prefix', 'minify');
  const mixed = random.chance(0.5) ? [...after, ...last] : [...last, ...after];
  const compiled = random.chance(0.5) ? [...before, 'compile'] : ['compile', ...before];
  return [...compiled, random.pick(['link', 'link', 'link: { shared: parts }']), ...mixed].map((one) =>
    one.includes(':') ? `{ ${one} }` : one,
  );
}

const profiles: Readonly<Record<string, string>> = {
  development: '',
  production: '',
  hashed: 'names: hashed, maps: file, compress: [gzip]',
};

const contents = (project: TestProject): Record<string, string> =>
  Object.fromEntries(project.files('site').map((path) => [path, readFileSync(project.path(path), 'latin1')]));

it(
  'chains of steps publish what can run, the same again, elsewhere and after edits',
  { timeout: 600_000 },
  async () => {
    // eslint-disable-next-line no-console -- a failure can be repeated with it
    console.log(`chains of steps from SEED=${String(firstSeed)}`);
    for (let seed = firstSeed; seed < firstSeed + projects; seed++) {
      const random = new Random(seed);
      const steps = chain(random).join(', ');
      const profile = random.pick(Object.keys(profiles));
      const entries = random.pick([
        '[src/one.ts, src/two.ts]',
        '[src/two.ts, src/one.ts, src/three.ts]',
        'src/three.ts',
      ]);
      const files = {
        ...sources(random),
        'anvil.yaml': `browsers: ${random.pick(['last 1 chrome version', 'chrome 60', 'safari 12'])}\nprofiles:\n  hashed: { ${profiles['hashed']!} }\npipelines:\n  scripts: { from: ${entries}, base: src, to: site, steps: [${steps}] }\n`,
      };
      const what = `seed ${String(seed)}, ${profile}: ${files['anvil.yaml']}`;
      const build = async (project: TestProject): Promise<string> => {
        const { code, stdout, stderr } = await project.run(['build', '--profile', profile]);
        expect(code, `${what}\n${stdout}${stderr}`).toBe(0);
        expect(stderr, what).not.toContain('[internal]');
        return stdout;
      };
      const project = new TestProject(files);
      await build(project);
      const first = contents(project);
      expect(await build(project), what).not.toMatch(/[1-9]\d* jobs? run/);
      expect(contents(project), what).toEqual(first);
      const copy = new TestProject(files);
      await build(copy);
      expect(contents(copy), what).toEqual(first);
      const edits: Readonly<Record<string, (text: string) => string>> = {
        'src/shared.ts': (text) => text.replace(/count = \d/, 'count = 70'),
        'src/lazy.ts': (text) => text.replace('count + 1', 'count + 70'),
        'src/two.ts': (text) => `${text}console.log('edited');\n`,
        'src/two.css': (text) => text.replace('0px 0px', '2px'),
        'src/data.json': (text) => text.replace('20', '19'),
      };
      const edited = random.pick(Object.keys(edits));
      const text = edits[edited]!(project.read(edited));
      project.write(edited, text);
      await build(project);
      const fresh = new TestProject({ ...files, [edited]: text });
      await build(fresh);
      expect(contents(project), `${what}\nafter an edit of ${edited}`).toEqual(contents(fresh));
      const dry = await project.run(['build', '--profile', profile, '--dry-run']);
      expect(dry.code, what).toBe(0);
      await project.run(['clean', '--profile', profile]);
      expect(project.files('site'), what).toEqual([]);
    }
  },
);
