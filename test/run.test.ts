import { spawn, spawnSync } from 'node:child_process';
import { chmodSync, cpSync, existsSync, readdirSync, rmSync, symlinkSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { Session } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { commandWords } from '#modules/core/config/command-words.js';
import { startWords } from '#modules/core/execute/program-path.js';
import { program } from './support/program.js';
import { TestProject } from './support/project.js';
import { Random } from './support/random.js';

/** The commands of processes with a text in them. */
const processesWith = (text: string): string[] =>
  spawnSync('ps', ['-eo', 'args'], { encoding: 'utf8' })
    .stdout.split('\n')
    .filter((line) => line.includes(text));

/** Puts the profile, and a name of the environment, behind the text. */
const stamp = `let text = '';
for await (const part of process.stdin) text += part;
console.error('\\x1b[31mstamping\\x1b[0m');
process.stdout.write(text + process.env.ANVIL_PROFILE + (process.env.OBSERVER ?? ''));
`;

const project = (steps: string, files: Record<string, string> = {}): TestProject =>
  new TestProject({
    'anvil.yaml': `pipelines: { notes: { from: src/**/*.txt, to: site, steps: [${steps}] } }\n`,
    'src/a.txt': 'a ',
    'src/deep/b.txt': 'b ',
    'tools/stamp.mjs': stamp,
    ...files,
  });

describe('run', () => {
  it.each([
    ['node tools/stamp.mjs', ['node', 'tools/stamp.mjs']],
    [`a 'b c' "d \\"e\\" \\n" f\\ g '' h"i"'j'`, ['a', 'b c', 'd "e" \\n', 'f g', '', 'hij']],
    ['  \n', []],
    [`a 'b`, undefined],
  ])('splits %j into words as a shell does', (text, words) => expect(commandWords(text)).toEqual(words));

  it('sends each asset through a command, again only if something that it reads has changed', async () => {
    const command = '{ command: node tools/stamp.mjs, reads: "data/*", environment: OBSERVER }';
    const notes = project(`run: ${command}`, { 'data/x': '1' });
    const build = async (env = {}): Promise<string> =>
      /\d+ jobs? run/.exec((await notes.run(['build', '--profile', 'development'], { env })).stdout)![0];
    expect(await build()).toBe('2 jobs run');
    expect([notes.read('site/a.txt'), notes.read('site/deep/b.txt')]).toEqual(['a development', 'b development']);
    expect(await build()).toBe('0 jobs run');
    notes.write('src/a.txt', 'A ');
    expect(await build()).toBe('1 job run');
    notes.write('data/x', '2');
    expect(await build()).toBe('2 jobs run');
    notes.write('tools/stamp.mjs', stamp.replace("?? ''", "?? '-'"));
    expect(await build()).toBe('2 jobs run');
    expect(await build({ OBSERVER: 'Ida' })).toBe('2 jobs run');
    expect(notes.read('site/a.txt')).toBe('A developmentIda');
  });

  it('uses files, folders and installed programs, and shows what commands write to standard error', async () => {
    const notes = project(
      `{ run: { command: [cp, "{in}", "{out}"], match: a.txt, extension: md } },
       { run: { command: fernlight-stamp, match: "*.md" } },
       { run: { command: 'node tools/all.mjs {in} {out}', gather: true, log: true } }`,
      {
        'node_modules/.bin/fernlight-stamp': `#!/usr/bin/env node\n${stamp.replace(/for await.*/, "text = 'moon ';")}`,
        'tools/all.mjs': `import { cpSync, readdirSync, symlinkSync, writeFileSync } from 'node:fs';
const [from, to] = process.argv.slice(2);
cpSync(from, to, { recursive: true });
writeFileSync(to + '/list.txt', readdirSync(from, { recursive: true }).sort().join());
symlinkSync('/etc/hostname', to + '/link.txt');
console.log('all');
`,
      },
    );
    chmodSync(notes.path('node_modules/.bin/fernlight-stamp'), 0o755);
    const { stderr } = await notes.build();
    expect(stderr.split('\n').sort()).toEqual(['', 'notes │ all', 'notes │ stamping']);
    expect(notes.files('site')).toEqual(['site/a.md', 'site/deep/b.txt', 'site/list.txt']);
    expect([notes.read('site/a.md'), notes.read('site/list.txt')]).toEqual(['moon production', 'a.md,deep,deep/b.txt']);
    expect(readdirSync(notes.path('.anvil-cache/commands'))).toEqual([]);
    const log = '.anvil-cache/logs/notes.production.log';
    expect(notes.read(log)).toBe('> node tools/all.mjs {in} {out}\nall\n');
    // Nothing is written through a link.
    rmSync(notes.path(log));
    symlinkSync('../../src/a.txt', notes.path(log));
    notes.write('tools/all.mjs', notes.read('tools/all.mjs') + "console.log('again');\n");
    await notes.build();
    expect([notes.read(log).split('\n')[2], notes.read('src/a.txt')]).toEqual(['again', 'a ']);
  });

  it('runs commands of independent pipelines at the same time', async () => {
    const meet = (own: string, other: string): string =>
      `import { existsSync, writeFileSync } from 'node:fs';\nwriteFileSync('${own}', '');\nwhile (!existsSync('${other}')) await new Promise((later) => setTimeout(later, 10));\n`;
    const project = new TestProject({
      'anvil.yaml':
        'pipelines:\n  one: { steps: [{ run: { command: node one.mjs, timeLimit: 20 } }] }\n  two: { steps: [{ run: { command: node two.mjs, timeLimit: 20 } }] }\n',
      'one.mjs': meet('one.txt', 'two.txt'),
      'two.mjs': meet('two.txt', 'one.txt'),
    });
    expect((await project.build()).stdout).toContain('2 jobs run');
  });

  it('runs tasks without sources, in every build unless they name what they read', async () => {
    const tasks = new TestProject({
      'anvil.yaml': `pipelines:
  always: { steps: [run: node tools/count.mjs always] }
  tests: { steps: [{ run: { command: node tools/count.mjs tests, reads: src/** } }] }
  look: { from: src/*, steps: [{ run: { command: node tools/count.mjs look, gather: true } }] }
`,
      'src/a.txt': 'a',
      'tools/count.mjs':
        "import { appendFileSync, rmSync, symlinkSync } from 'node:fs';\nappendFileSync(`${process.argv[2]}.log`, '+');\n",
    });
    const counts = (): string[] => ['always', 'tests', 'look'].map((name) => tasks.read(`${name}.log`));
    await tasks.build();
    await tasks.build();
    expect(counts()).toEqual(['++', '+', '+']);
    expect((await tasks.run(['build', '--dry-run'])).stdout).toMatch(/run 1 job\..*always +1 to run/s);
    tasks.write('src/a.txt', 'b');
    await tasks.build();
    expect(counts()).toEqual(['+++', '++', '++']);
    const { stdout } = await tasks.run(['list']);
    expect(stdout).toContain('run node tools/count.mjs always (in every build)');
    expect(stdout.match(/nothing is published/g)).toHaveLength(3);
    tasks.write(
      'anvil.yaml',
      'pipelines:\n  a: { steps: [minify] }\n  b: { to: site, steps: [run: x] }\n  c: { from: x }\n',
    );
    expect((await tasks.diagnose()).said).toEqual([
      'anvil.yaml:2:16: error [step-without-sources]',
      'anvil.yaml:3:3: error [missing-key]',
      'anvil.yaml:4:3: error [missing-key]',
    ]);
  });

  it('reports commands that cannot be started, fail, or do not end, and keeps the outputs', async () => {
    const notes = project('run: node tools/stamp.mjs');
    await notes.build();
    const failing: [steps: string, said: RegExp][] = [
      ['run: fernlight-stamp', /there is no program `fernlight-stamp`/],
      ['run: node tools/fail.mjs', /ended with 3\.\n {2}line 2\n/],
      [`run: { command: "sh -c 'sleep 77 & sleep 77'", timeLimit: 1 }`, /did not end within 1 s/],
      ["run: 'node -e 0 {out}'", /without writing the file/],
    ];
    notes.write('tools/fail.mjs', "console.error('line 2');\nprocess.exitCode = 3;\n");
    for (const [steps, said] of failing) {
      notes.write('anvil.yaml', `pipelines: { notes: { from: src/a.txt, to: site, steps: [${steps}] } }\n`);
      const { code, stderr } = await notes.run(['build']);
      expect([code, notes.read('site/a.txt')], steps).toEqual([1, 'a production']);
      expect(stderr).toMatch(said);
    }
    expect(processesWith('sleep 77')).toEqual([]);
    notes.write('anvil.yaml', `pipelines: { notes: { from: src/a.txt, to: site, steps: [run: "a 'b"] } }\n`);
    expect((await notes.diagnose()).said).toEqual(['anvil.yaml:1:63: error [wrong-type]']);
  });

  it('ends a command with everything that it has started when a session ends', async () => {
    const notes = project('run: sh -c "echo > started; sleep 78 & sleep 78"');
    const session = await Session.open({ folder: notes.root });
    const running = session.run();
    while (!existsSync(notes.path('started'))) await pause(20);
    session.close();
    await running;
    while (processesWith('sleep 78').length > 0) await pause(20);
  });

  it.each([
    ['the program', `exec "$0" "$@"`],
    ['the shell that has started it', '"$0" "$@"; :'],
  ])('ends a session and its commands when %s is killed', async (_, shell) => {
    const notes = project('run: sh -c "echo $$ > started; sleep 79 & sleep 79"');
    const call = [process.execPath, program, 'watch', '--config', notes.path('anvil.yaml')];
    const killed = spawn('/bin/sh', ['-c', shell, ...call]);
    killed.stdout.resume();
    while (!existsSync(notes.path('started'))) await pause(20);
    killed.kill('SIGKILL');
    while (processesWith('sleep 79').length + processesWith(notes.root).length > 0) await pause(20);
  });

  it('takes the profile from the environment where no option names one, as commands do that run the program', async () => {
    const notes = project(`run: { command: node tools/stamp.mjs }`);
    for (const [args, profile, found] of [
      [[], 'development', 'development'],
      [['--profile', 'production'], 'development', 'production'],
      [[], '', 'production'],
    ] as const) {
      await notes.run(['build', ...args], { env: { ANVIL_PROFILE: profile } });
      expect(notes.read('site/a.txt')).toBe(`a ${found}`);
    }
    expect((await notes.run(['build'], { env: { ANVIL_PROFILE: 'none' } })).code).toBe(2);
  });

  it('runs commands in builds only, not while a session warms up', async () => {
    // Outside the project, where writing to it is no change.
    const log = new TestProject({ log: '' });
    const notes = project('run: node tools/log.mjs', {
      'tools/log.mjs': `import { appendFileSync, rmSync, symlinkSync } from 'node:fs';\nappendFileSync(${JSON.stringify(log.path('log'))}, '+');\n`,
    });
    const session = await Session.open({ folder: notes.root });
    const running = session.run();
    const isWarmingUp = (): boolean => session.state === 'warming-up';
    while (!isWarmingUp()) await pause(1);
    // Interrupted, it begins again at once.
    const isIdle = (): boolean => session.state === 'idle';
    for (let idle = 0; idle < 20; idle = isIdle() ? idle + 1 : 0) await pause(10);
    session.close();
    await running;
    expect(log.read('log')).toBe('++');
  });

  it('does not take commands from a cached plan', async () => {
    const cache = '.anvil-cache/store';
    const notes = project('run: node tools/stamp.mjs');
    await notes.build();
    const caches = readdirSync(notes.path(cache)).filter((name) => name.endsWith('.json'));
    expect(caches.length).toBeGreaterThan(1);
    for (const name of caches)
      notes.write(`${cache}/${name}`, notes.read(`${cache}/${name}`).replaceAll('tools/stamp.mjs', 'tools/other.mjs'));
    notes.write(
      'tools/other.mjs',
      "import { writeFileSync, rmSync, symlinkSync } from 'node:fs';\nwriteFileSync('harm', '');\n",
    );
    notes.write('src/a.txt', 'A ');
    await notes.build();
    expect([notes.exists('harm'), notes.read('site/a.txt')]).toEqual([false, 'A production']);
  });

  it('starts the scripts of installed packages with Node.js on Windows, where they have no extension', () => {
    const script = `#!/bin/sh\nexec node  "$basedir/../fernlight-stamp/cli.js" "$@"\n`;
    const installed = new TestProject({ 'node_modules/.bin/fernlight-stamp': script });
    expect(startWords(['fernlight-stamp', '-x'], installed.root, 'win32')).toEqual([
      process.execPath,
      installed.path('node_modules/fernlight-stamp/cli.js'),
      '-x',
    ]);
    expect(startWords(['other'], installed.root, 'win32')).toEqual(['other']);
  });

  it('may write sources, data and partials of pipelines after it: a first build equals the second', async () => {
    const files: Readonly<Record<string, string>> = {
      'pages/a.html': '<p>{{ moon.phase }}</p>\n',
      'pages/deep/b.html': '{% render "card" %}\n',
      'parts/card.html': '<b>card</b>\n',
      'data/moon.yaml': 'phase: full\n',
      'styles/_part.scss': '$c: red;\n',
      'styles/x.scss': '@use "part"; a { color: part.$c }\n',
      'src/late.js': 'export const late = 1;\n',
    };
    // Some of them exist already, and some of these have another content.
    for (let seed = 1; seed < 9; seed++) {
      const random = new Random(seed);
      const before = Object.entries(files).filter(() => random.chance(0.3));
      const project = new TestProject({
        'anvil.yaml': `pipelines:
  gen: { steps: [{ run: { command: node gen.mjs, reads: gen.mjs, writes: ["{pages,parts,data,styles}/**", src/late.js] } }] }
  pages: { after: gen, from: pages/**/*.html, steps: [{ render: { data: data/*.yaml, layouts: layouts, parts: parts } }], to: site }
  styles: { after: gen, from: styles/*.scss, steps: [compile], to: site }
  copies: { from: site/*.css, to: copies }
  app: { after: styles, from: src/main.js, steps: [link], to: site }
`,
        'gen.mjs': `import { mkdirSync, writeFileSync } from 'node:fs';
for (const [path, text] of Object.entries(${JSON.stringify(files)})) { mkdirSync(path.replace(/[^/]+$/, ''), { recursive: true }); writeFileSync(path, text); }
`,
        'src/main.js': "import { late } from './late.js'; console.log(late);\n",
        ...Object.fromEntries(before.map(([path, text]) => [path, random.chance(0.5) ? text : `${text}\n`])),
      });
      const first = await project.run(['build']);
      expect(first, `seed ${String(seed)}`).toMatchObject({ code: 0, stderr: '' });
      const outputs = project.files('site').map((path) => [path, project.read(path)]);
      const { stdout } = await project.run(['build']);
      expect(stdout, `seed ${String(seed)}`).toContain('all unchanged');
      expect(project.files('site').map((path) => [path, project.read(path)])).toEqual(outputs);
      expect(project.files('site').length).toBeGreaterThan(3);
      expect(project.files('copies')).toEqual(['copies/x.css']);
    }
  });
});

describe('files that commands write by themselves', () => {
  it('are written again when they are missing, also in a clone with a copied store, and are a warning otherwise', async () => {
    const yaml = (writes: string): string => `pipelines:
  hours: { steps: [{ run: { command: node hours.mjs, reads: hours.txt${writes} } }] }
  styles: { from: "gen/*.css", to: site, after: hours }
`;
    const files = {
      'anvil.yaml': yaml(''),
      'hours.txt': 'p { top: 0 }\n',
      'hours.mjs':
        "import { cpSync, mkdirSync } from 'node:fs';\nmkdirSync('gen', { recursive: true });\ncpSync('hours.txt', 'gen/hours.css');\n",
    };
    const project = new TestProject(files);
    const first = await project.run(['build']);
    expect(first.stderr.match(/\[.*?\]/g)).toEqual(['[command-writes-unlisted]']);
    expect(first.stdout).toMatch(/^styles +1 source +→ 1 output +1 written/m);
    project.write('anvil.yaml', yaml(', writes: "gen/*.css"'));
    expect((await project.diagnose()).said).toEqual([]);
    expect((await project.build()).stdout).toContain('0 jobs run');
    rmSync(project.path('gen'), { recursive: true });
    expect((await project.build()).stdout).toContain('1 job run');
    expect(project.exists('gen/hours.css')).toBe(true);
    const clone = new TestProject({ ...files, 'anvil.yaml': project.read('anvil.yaml') });
    cpSync(project.path('.anvil-cache'), clone.path('.anvil-cache'), { recursive: true });
    expect((await clone.diagnose()).said).toEqual([]);
    expect(clone.read('site/hours.css')).toBe(files['hours.txt']);
    project.write('anvil.yaml', yaml(', writes: [gen/hours.css, gone.css]'));
    expect((await project.diagnose()).said).toEqual(['loyal-anvil: warning [command-wrote-nothing]']);
  });
});
