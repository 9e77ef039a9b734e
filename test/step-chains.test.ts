import { readFileSync } from 'node:fs';
import { Project } from 'loyal-anvil';
import { expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Random } from './support/random.js';

/** The first seed; a new one each time. */
const firstSeed = Number(process.env['SEED'] ?? Math.floor(Math.random() * 1e6));

const projects = Number(process.env['PROJECTS'] ?? 2);

/** Sources of which several are entry points, and that share others. */
const sources = (random: Random): Record<string, string> => ({
  'src/one.ts': `import { shared } from './shared';\nimport './one.css';\nimport('./lazy').then(({ late }) => console.log(late));\nconsole.log(shared<string>('one'), ${String(random.between(0, 9))});\n`,
  'src/two.ts': `import { shared } from './shared';\nimport './one.css';\nimport data from './data.json' with { type: 'json' };\nexport const two: unknown = shared(data);\nconsole.log(two, new URL('./note.txt?x', import.meta.url).href.length > 0);\n`,
  'src/three.ts': `export * from './two';\nimport * as all from './shared';\nconsole.log(Object.keys(all));\n`,
  'src/shared.ts': `/*! Fernlight */\nexport const shared = <T>(value: T): T => value ?? ({} as T);\nexport let count = ${String(random.between(0, 9))};\n`,
  'src/lazy.ts': `import { count } from './shared';\ndeclare const HOURS: number;\nexport const late: number = count + HOURS;\n`,
  'src/one.css': '@import "./two.css";\n.dome { user-select: none; color: #ff0000 }\n',
  'src/two.css': '.moon { margin: 0px 0px }\n',
  'src/data.json': '{ "open": [20, 22] }\n',
  'src/note.txt': 'Closed on Mondays.\n',
  'pages/index.html': `<!doctype html><script type="module" src="one.js"></script><script type="module" src="three.js"></script><img src="dome.png">\n<p>${'Open tonight. '.repeat(90)}</p>\n`,
  'pages/dome.png': 'dome',
  'pages/plan.css': 'p { background: url("dome.png") }\n',
  'pass.mjs': 'export default () => undefined;\n',
  'sign.mjs':
    'export default ([...all], { settings }) => [...all, { path: "sign.txt", text: `Open at ${settings.constants.DOME}` }];\n',
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
    'apply: { module: sign.mjs, gather: true, writes: sign.txt }',
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

const constants = 'constants: { HOURS: 20, DOME: 2 }';

const profiles: Readonly<Record<string, string>> = {
  development: constants,
  production: constants,
  hashed: `names: hashed, maps: file, compress: [gzip], ${constants}`,
};

const contents = (project: TestProject): Record<string, string> =>
  Object.fromEntries(project.files('site').map((path) => [path, readFileSync(project.path(path), 'latin1')]));

interface ForecastEvent {
  readonly name: string;
  readonly run: readonly { readonly step: string }[];
  readonly mayRun: number;
  readonly write: readonly string[];
  readonly mayWrite: readonly string[];
  readonly remove: readonly string[];
  readonly mayRemove: readonly string[];
}

const eventsOf = <Event>(text: string): Event[] =>
  text
    .trim()
    .split('\n')
    .map((line) => JSON.parse(line) as Event);

/** Builds, and compares the jobs that ran and the files that changed with what a dry run had said. */
async function expectForecast(project: TestProject, profile: string, what: string): Promise<void> {
  const args = ['build', '--profile', profile, '--format', 'json'];
  const forecasts = eventsOf<ForecastEvent>((await project.run([...args, '--dry-run'])).stdout);
  const before = contents(project);
  const { stdout } = await project.run(args);
  const after = contents(project);
  const isOneOf = (globs: readonly string[], path: string): boolean => globs.some((glob) => matches(glob, path));
  const all = (key: 'write' | 'mayWrite' | 'remove' | 'mayRemove'): string[] => forecasts.flatMap((one) => one[key]);
  const said = `${what}\n${JSON.stringify(forecasts)}`;
  const written = Object.keys(after).filter((path) => before[path] !== after[path]);
  const removed = Object.keys(before).filter((path) => !(path in after));
  expect(
    written.filter((path) => !isOneOf([...all('write'), ...all('mayWrite')], path)),
    said,
  ).toEqual([]);
  expect(
    all('write').filter((glob) => !written.some((path) => matches(glob, path))),
    said,
  ).toEqual([]);
  expect(
    removed.filter((path) => !isOneOf([...all('remove'), ...all('mayRemove')], path)),
    said,
  ).toEqual([]);
  expect(
    all('remove').filter((path) => !removed.includes(path)),
    said,
  ).toEqual([]);
  for (const { name, steps } of eventsOf<{ name: string; steps?: { step: string; run: number }[] }>(stdout)) {
    const forecast = forecasts.find((one) => one.name === name);
    if (!steps || !forecast) continue;
    const ran = steps.reduce((sum, { run }) => sum + run, 0);
    expect(ran, said).toBeGreaterThanOrEqual(forecast.run.length);
    expect(ran, said).toBeLessThanOrEqual(forecast.run.length + forecast.mayRun);
  }
}

/** Reports whether a path is one of those that a dry run names: \`*\` stands for a part of a name. */
const matches = (glob: string, path: string): boolean =>
  new RegExp(`^${glob.replace(/[.+()[\]{}^$|\\]/g, '\\$&').replaceAll('*', '[^/]*')}$`).test(path);

/** Every published file is explained, and part of the report. */
async function expectExplained(project: TestProject, profile: string, what: string): Promise<void> {
  const opened = await Project.open({ folder: project.root, isReadOnly: true });
  const { outputs, manifest } = await opened.report(profile);
  const reported = new Set(outputs.flatMap(({ path, beside }) => [path, ...beside]));
  if (manifest !== undefined) reported.add(manifest);
  const published = project.files('site');
  expect(
    published.filter((path) => !reported.has(path)),
    what,
  ).toEqual([]);
  for (const path of published) expect((await opened.why(path, profile)).kind, `${what}\n${path}`).toBe('output');
}

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
      const settings = Object.entries(profiles).map(([name, text]) => `  ${name}: { ${text} }\n`);
      const files = {
        ...sources(random),
        'anvil.yaml': `browsers: ${random.pick(['last 1 chrome version', 'chrome 60', 'safari 12'])}\nprofiles:\n${settings.join('')}pipelines:\n  scripts: { from: ${entries}, base: src, to: site, steps: [${steps}] }\n  pages: { from: "pages/*", to: site }\n`,
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
        'src/lazy.ts': (text) => text.replace('count + HOURS', 'HOURS - count'),
        'src/two.ts': (text) => `${text}console.log('edited');\n`,
        'src/two.css': (text) => text.replace('0px 0px', '2px'),
        'src/data.json': (text) => text.replace('20', '19'),
        'src/one.ts': (text) => text.replace(/^import\(.*\n/m, ''),
        'src/three.ts': () => "import './one';\n",
        'pages/dome.png': () => 'another dome',
        'pages/plan.css': (text) => text.replace('p {', 'b {'),
        'pages/index.html': (text) => text.replace('tonight', 'tomorrow'),
        'pages/new.html': () => '<!doctype html><p>New</p>\n',
        'src/new.ts': () => 'export {};\n',
        'anvil.yaml': (text) =>
          random.pick([
            text.replaceAll('HOURS: 20', 'HOURS: 21'),
            text.replaceAll('DOME: 2', 'DOME: 3'),
            text.replace('base: src, to: site,', 'base: src, to: site/app,'),
            text.replace('from: "pages/*"', 'from: "pages/*.{html,css}"'),
            text.replace(/(\[src\/one\.ts, .*?\]|src\/three\.ts)/, 'src/two.ts'),
          ]),
      };
      const edited = random.pick(Object.keys(edits));
      const before = project.exists(edited) ? project.read(edited) : '';
      const text = edits[edited]!(before);
      const after = `${what}\nafter an edit of ${edited}`;
      if (before !== '' && edited !== 'pages/dome.png' && random.chance(0.3)) {
        project.write(edited, `<<<<<<< HEAD\n${before}=======\n${text}>>>>>>> night-sky\n`);
        const { code, stderr } = await project.run(['build', '--profile', profile]);
        expect(`${String(code)} ${stderr}`, after).toMatch(/^[12] .*\[merge-conflict\]/s);
        expect(Object.keys(contents(project)), after).toEqual(Object.keys(first));
      }
      project.write(edited, text);
      await expectForecast(project, profile, after);
      const fresh = new TestProject({ ...files, [edited]: text });
      await build(fresh);
      expect(contents(project), after).toEqual(contents(fresh));
      await expectExplained(project, profile, what);
      const dry = await project.run(['build', '--profile', profile, '--dry-run']);
      expect(dry.stdout, what).toContain('has nothing to do');
      await project.run(['clean', '--profile', profile]);
      expect(project.files('site'), what).toEqual([]);
    }
  },
);
