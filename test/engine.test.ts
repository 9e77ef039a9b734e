import { spawn, spawnSync } from 'node:child_process';
import {
  cpSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  truncateSync,
  utimesSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { fileURLToPath } from 'node:url';
import { describe, expect, it } from 'vitest';
import { program } from './support/program.js';
import { pipeline, TestProject } from './support/project.js';

interface Jobs {
  readonly run: number;
  readonly reused: number;
}

/** Builds, and returns how many jobs ran and how many were reused. */
async function jobsOf(project: TestProject, ...args: string[]): Promise<Jobs> {
  const done = (await project.events(['build', ...args])).find((one) => one['event'] === 'build-done')!;
  expect(done['done']).toBe(true);
  return done['jobs'] as Jobs;
}

const sass = (files: Record<string, string> = {}, steps = '[compile, minify]'): TestProject =>
  new TestProject({
    'src/a.scss': '@use "theme";\na { color: theme.$color }\n',
    'src/b.scss': 'b { color: blue }\n',
    'src/_theme.scss': '$color: red;\n',
    'anvil.yaml': pipeline(`from: src/*.scss\nto: site\nsteps: ${steps}`),
    ...files,
  });

describe('an incremental build', () => {
  it('runs nothing if nothing changed, and loads only what it needs', async () => {
    const project = TestProject.demo();
    await project.build();
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 52 });
    const loaded = mkdtempSync(join(tmpdir(), 'anvil-loaded-'));
    const first = await project.build();
    await project.run(['build'], { env: { NODE_V8_COVERAGE: loaded }, isCold: true });
    const scripts = readdirSync(loaded).flatMap((name) => {
      const { result } = JSON.parse(readFileSync(join(loaded, name), 'utf8')) as { result: { url: string }[] };
      return result.map(({ url }) => url);
    });
    rmSync(loaded, { recursive: true });
    expect(scripts.some((url) => url.endsWith('/up-to-date.js'))).toBe(true);
    const heavy = /node_modules\/(yaml|class-validator|typescript|acorn|css-tree|browserslist|lmdb|picomatch|pbf)\//;
    expect(scripts.filter((url) => heavy.test(url))).toEqual([]);
    expect(first.stdout).toContain('40 outputs for production, all unchanged');
  });

  it('runs what a changed partial affects, and stops at unchanged results', async () => {
    const project = sass();
    await project.build();
    const before = project.mtime('site/a.css');
    project.write('src/_theme.scss', '// the same, with a comment\n$color: red;\n');
    expect(await jobsOf(project)).toEqual({ run: 1, reused: 3 });
    expect(project.mtime('site/a.css')).toBe(before);
    project.write('src/_theme.scss', '$color: lime;\n');
    expect(await jobsOf(project)).toEqual({ run: 2, reused: 2 });
    expect(project.read('site/a.css')).toBe('a{color:lime}');
  });

  it('reuses results of earlier states from the store, also after all outputs were deleted', async () => {
    const project = sass();
    await project.build();
    project.write('src/_theme.scss', '$color: lime;\n');
    await project.build();
    project.write('src/_theme.scss', '$color: red;\n');
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 4 });
    expect(project.read('site/a.css')).toBe('a{color:red}');
    rmSync(project.path('site'), { recursive: true });
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 4 });
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
  });

  it('rebuilds if a file of higher precedence is added, or one is removed', async () => {
    const project = sass({ 'lib/_theme.scss': '$color: teal;\n' }, '[{ compile: { loadPaths: lib } }, minify]');
    await project.build();
    rmSync(project.path('src/_theme.scss'));
    expect(await jobsOf(project)).toEqual({ run: 2, reused: 2 });
    expect(project.read('site/a.css')).toBe('a{color:teal}');
    project.write('src/_theme.sass', '$color: navy\n');
    expect(await jobsOf(project)).toEqual({ run: 2, reused: 2 });
    expect(project.read('site/a.css')).toBe('a{color:navy}');
  });

  it('compares the content of files, not their times', async () => {
    const project = sass();
    await project.build();
    const times = statSync(project.path('src/b.scss'));
    project.write('src/b.scss', 'b { color: teal }\n');
    utimesSync(project.path('src/b.scss'), times.atime, times.mtime);
    expect(await jobsOf(project)).toEqual({ run: 2, reused: 2 });
    utimesSync(project.path('src/a.scss'), new Date(), new Date());
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 4 });
  });

  it.each([
    ['browsers: chrome 90', 2],
    ['profiles: { production: { constants: { A: 1 } } }', 0],
    ['profiles: { production: { maps: file } }', 4],
  ])('runs only the steps that depend on a changed setting: %s', async (head, run) => {
    const project = sass();
    await project.build();
    const yaml = project.read('anvil.yaml');
    project.write('anvil.yaml', `${head}\n${yaml}`);
    expect(await jobsOf(project)).toEqual({ run, reused: 4 - run });
    project.write('anvil.yaml', `# as it was\n${yaml}`);
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 4 });
  });

  it('reuses everything after a move to another folder, and in a copy with the store', async () => {
    const project = sass();
    await project.build();
    const copy = new TestProject();
    for (const path of [...project.files('src'), 'anvil.yaml']) copy.write(path, project.read(path));
    cpSync(project.path('.anvil-cache/store'), copy.path('.anvil-cache/store'), { recursive: true });
    expect(await jobsOf(copy)).toEqual({ run: 0, reused: 4 });
    expect(copy.read('site/a.css')).toBe('a{color:red}');
    const moved = new TestProject();
    renameSync(project.path('.'), moved.path('here'));
    const { stdout } = await moved.run(['build'], { folder: 'here' });
    expect(stdout).toContain('2 outputs for production, all unchanged; 0 jobs run, 4 reused');
  });

  it('replays warnings and errors without running their jobs', async () => {
    const project = sass({ 'src/b.scss': '@warn "Mind the step.";\nb { color: blue }\n' });
    const said = (await project.diagnose()).said;
    expect(said).toEqual(['src/b.scss:1:1: warning [sass-warning]']);
    for (let again = 0; again < 3; again++) expect((await project.diagnose()).said).toEqual(said);
    project.write('src/a.scss', 'a { color: $nowhere }\n');
    const wrong = await project.diagnose();
    expect(wrong.said).toContain('src/a.scss:1:12: error [sass]');
    const events = await project.events(['build']);
    expect(events.find((one) => one['event'] === 'pipeline-done')).toMatchObject({
      steps: [
        { run: 0, reused: 2 },
        { run: 0, reused: 1 },
      ],
    });
    expect((await project.diagnose()).said).toEqual(wrong.said);
  });

  it('gives the same result with one thread and with several', async () => {
    const files: Record<string, string> = {
      'anvil.yaml': pipeline('from: src/*.ts\nto: site\nsteps: [compile, minify]'),
    };
    // Large enough that the other workers are ready long before it ends.
    for (let number = 0; number < 120; number++)
      files[`src/m${String(number)}.ts`] = Array.from(
        { length: 36 },
        (_, at) =>
          `export function f${String(at)}(a: number, b: string = '${String(number)}'): string { return \`\${a * ${String(at)}} \${b ?? a}\`; }\n`,
      ).join('');
    const [one, many] = [new TestProject(files), new TestProject(files)];
    const alone = spawnSync('taskset', ['-c', '0', process.execPath, program, 'build', '-q'], { cwd: one.root });
    if (alone.error) return;
    await many.build();
    expect(many.files('site')).toHaveLength(120);
    for (const path of many.files('site')) expect(many.read(path)).toBe(one.read(path));
    many.write('src/m7.ts', 'export const = 1;\n');
    rmSync(many.path('.anvil-cache/store'), { recursive: true });
    expect((await many.diagnose()).said[0]).toBe('src/m7.ts:1:14: error [typescript]');
  });

  it.skipIf(process.platform !== 'linux')(
    'keeps memory within limits, however large the files of a project are',
    async () => {
      const project = new TestProject({
        'anvil.yaml':
          'pipelines:\n  copies: { from: tapes/*, to: site }\n  texts: { from: logs/*, to: site, steps: [cut] }\n',
        'watch.cjs':
          "const fs = require('fs');\nlet most = 0;\nconst look = () => (most = Math.max(most, /RssAnon:\\s+(\\d+)/.exec(fs.readFileSync('/proc/self/status', 'utf8'))[1] / 1024));\nsetInterval(look, 20).unref();\nprocess.on('exit', () => fs.writeFileSync('most', String(most)));\n",
        'tapes/one.bin': '',
        'tapes/two.bin': '',
      });
      for (const tape of ['tapes/one.bin', 'tapes/two.bin']) truncateSync(project.path(tape), 150 * 2 ** 20);
      for (let night = 0; night < 20; night++)
        project.write(`logs/${String(night)}.txt`, `Night ${String(night)}, all clear. `.repeat(80_000));
      const env = { NODE_OPTIONS: `--require ${project.path('watch.cjs')}` };
      expect((await project.run(['build'], { env, isCold: true })).code).toBe(0);
      expect(project.bytes('site/two.bin').length).toBe(150 * 2 ** 20);
      // In megabytes; the files have 340.
      expect(Number(project.read('most'))).toBeLessThan(200);
    },
  );
});

describe('the store', () => {
  const folder = '.anvil-cache/store';
  const database = `${folder}/results-2/data.mdb`;

  const damages: Record<string, (project: TestProject) => void> = {
    'is cut off': (project) => truncateSync(project.path(database), 9000),
    'is empty': (project) => truncateSync(project.path(database), 0),
    'is no database': (project) => project.write(database, 'hello '.repeat(5000)),
    'has holes': (project) => {
      const bytes = project.bytes(database);
      bytes.fill(0, 8192, bytes.length - 4096);
      project.write(database, bytes);
    },
    'is noise from the second page on': (project) => {
      const bytes = project.bytes(database);
      for (let at = 8192; at < bytes.length; at++) bytes[at] = (at * 2_654_435_761) >>> 13;
      project.write(database, bytes);
    },
    'has lost what the last build found': (project) => {
      for (const name of readdirSync(project.path(folder)))
        if (name.endsWith('.json')) project.write(`${folder}/${name}`, project.read(`${folder}/${name}`).slice(0, -7));
    },
    'is a file': (project) => {
      rmSync(project.path(folder), { recursive: true });
      project.write(folder, 'in the way');
    },
  };

  it.each(Object.entries(damages))('costs only time when it %s', async (name, damage) => {
    const project = sass();
    await project.build();
    damage(project);
    project.write('src/b.scss', 'b { color: teal }\n');
    const run = await project.run(['build', '--format', 'lines']);
    expect(run.code).toBe(0);
    expect(run.stderr.split('\n').filter((line) => line !== '' && !line.includes('[store-unusable]'))).toEqual([]);
    if (name === 'is a file') expect(run.stderr).toContain('[store-unusable]');
    expect(project.read('site/a.css') + project.read('site/b.css')).toBe('a{color:red}b{color:teal}');
    project.write('src/b.scss', 'b { color: lime }\n');
    await project.build();
    expect(project.read('site/b.css')).toBe('b{color:lime}');
  });

  it('survives random damage of its data file, and gives nothing that is wrong', { timeout: 900_000 }, () => {
    const { DAMAGES = '25', SEED = String(Math.floor(Math.random() * 1e6)) } = process.env;
    const project = new TestProject();
    const script = fileURLToPath(new URL('../build/test/support/store-damage.js', import.meta.url));
    const { status, signal, stdout, stderr } = spawnSync(
      process.execPath,
      [script, project.path('store'), DAMAGES, SEED],
      {
        encoding: 'utf8',
      },
    );
    expect([status, signal], `SEED=${SEED}: ${stderr}`).toEqual([0, null]);
    const [first, ...later] = JSON.parse(stdout) as number[];
    expect(first).toBe(0);
    // Most damages leave most entries.
    expect(later.filter((found) => found > 30).length).toBeGreaterThan(Number(DAMAGES) / 4);
  });

  it('stays below its size limit', async () => {
    const noise = (seed: number): string => {
      let state = seed;
      return Array.from({ length: 60_000 }, () => ((state = (state * 48_271) % 2_147_483_647) % 36).toString(36)).join(
        '',
      );
    };
    const project = new TestProject({
      'anvil.yaml': pipeline('from: src/*.css\nto: site\nsteps: [minify]', 'store: { limit: 1 MB }\n'),
    });
    let largest = 0;
    for (let round = 1; round <= 6; round++) {
      for (let file = 0; file < 10; file++)
        project.write(`src/${String(file)}.css`, `a{--x:${noise(round * 100 + file)}}`);
      await project.build('-q');
      if (round > 3) largest = Math.max(largest, statSync(project.path(database)).size);
    }
    expect(largest).toBeLessThan(1_000_000);
    expect(await jobsOf(project)).toEqual({ run: 0, reused: 10 });
  });

  it('is deleted by `clean --store`, and is inside node_modules if that exists', async () => {
    const project = sass({ 'node_modules/x/package.json': '{}' });
    await project.build();
    expect(project.exists('node_modules/.cache/loyal-anvil/results-2')).toBe(true);
    await project.run(['clean', '--store']);
    expect(project.exists('node_modules/.cache/loyal-anvil')).toBe(false);
    expect(await jobsOf(project)).toEqual({ run: 4, reused: 0 });
  });

  it('recovers from a kill at any moment, and the next build is correct', async () => {
    const project = sass();
    for (let round = 0; round < 12; round++) {
      const color = ['red', 'lime', 'teal'][round % 3]!;
      project.write('src/_theme.scss', `$color: ${color};\n`);
      const child = spawn(process.execPath, [program, 'build'], { cwd: project.root, stdio: 'ignore' });
      const ended = new Promise((over) => child.on('exit', over));
      await pause(150 + round * 60);
      child.kill('SIGKILL');
      await ended;
      for (const path of project.files('site'))
        if (path.endsWith('.css')) expect(project.read(path)).toMatch(/^[ab]\{color:[a-z#0-9]+\}$/);
      if (round % 3 === 2) {
        await project.build();
        expect(project.read('site/a.css')).toBe(`a{color:${color}}`);
        expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
      }
    }
  });

  it('can be shared by concurrent builds', async () => {
    const project = sass();
    mkdirSync(project.path('site'));
    const runs = await Promise.all([project.run(['build']), project.run(['build']), project.run(['build'])]);
    expect(runs.map((run) => [run.code, run.stderr])).toEqual([
      [0, ''],
      [0, ''],
      [0, ''],
    ]);
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
    expect((await project.run(['clean'])).stdout).toBe('Removed 2 outputs.\n');
  });
});

describe('`why`', () => {
  it('explains an output step by step, and what changed', async () => {
    const project = sass();
    await project.build();
    const { stdout } = await project.run(['why', 'site/a.css']);
    expect(stdout).toMatch(/^site\/a\.css, 12 B, built by one for production$/m);
    expect(stdout).toMatch(/^ {2}from +src\/a\.scss\n {2}compile +src\/_theme\.scss$/m);
    expect(stdout).toMatch(/^ {2}last built +in the last build, because it was new$/m);
    expect(stdout).toMatch(/^ {2}now +up to date$/m);
    project.write('src/_theme.scss', '$color: lime;\n');
    expect((await project.run(['why', 'site/a.css'])).stdout).toMatch(
      /src\/_theme\.scss {2}changed$[^]*out of date: 1 file/m,
    );
    await project.build();
    const again = (await project.run(['why', 'a.css'], { folder: 'site' })).stdout;
    expect(again).toContain('in the last build, because src/_theme.scss changed');
    expect((await project.run(['why', 'site/b.css'])).stdout).toContain('in an earlier build, because it was new');
    project.write('site/a.css', 'mine');
    expect((await project.run(['why', 'site/a.css'])).stdout).toContain('modified by hand');
  });

  it('lists the outputs that a file affects, also through other pipelines', async () => {
    const yaml = `pipelines:\n  one: { from: src/*.scss, to: site, steps: [compile] }\n  two: { from: [site/a.css, site/b.css], to: all, steps: [join: all.css] }\n`;
    const project = sass({ 'anvil.yaml': yaml });
    await project.build();
    expect((await project.run(['why', 'src/_theme.scss', '--format', 'lines'])).stdout).toBe(
      'site/a.css\nall/all.css\n',
    );
    expect((await project.run(['why', 'all/all.css', '--format', 'lines'])).stdout).toBe('site/a.css\nsite/b.css\n');
    expect((await project.run(['why', 'src/b.scss'])).stdout).toMatch(/all\/all\.css +two, through site\/b\.css/);
  });

  it('suggests the nearest path for an unknown one', async () => {
    const project = sass();
    expect(await project.diagnose(['why', 'site/a.css'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [why-unbuilt]'],
    });
    await project.build();
    const { code, stderr } = await project.run(['why', 'site/aa.css']);
    expect([code, stderr]).toEqual([2, expect.stringContaining('Did you mean `site/a.css`?')]);
  });
});

describe('a file written by another pipeline', () => {
  it('is read after it was written, also if the read is only found during the build', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'pipelines:\n  styles: { from: src/*.scss, to: site, steps: [compile] }\n  tokens: { from: tokens/*.scss, to: gen }\n',
      'src/a.scss': '@use "../gen/colors";\na { color: colors.$ink }\n',
      'tokens/colors.scss': '$ink: red;\n',
    });
    for (const color of ['red', 'blue', 'lime']) {
      project.write('tokens/colors.scss', `$ink: ${color};\n`);
      if (color === 'blue')
        expect((await project.run(['build', '--dry-run', '--format', 'lines'])).stdout).toBe(
          'styles\tmay write\tsite/a.css\ntokens\twrite\tgen/colors.scss\n',
        );
      await project.build(...(color === 'lime' ? ['styles'] : []));
      expect(project.read('site/a.css')).toContain(`color: ${color}`);
    }
    project.write('anvil.yaml', project.read('anvil.yaml').replace(/ {2}tokens.*\n/, ''));
    expect((await project.diagnose()).said).toEqual(['src/a.scss:1:1: error [sass]']);
    expect([project.exists('gen'), project.read('site/a.css')]).toEqual([false, expect.stringContaining('lime')]);
  });

  it('is read from disk if its pipeline was removed and it was edited', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'pipelines:\n  styles: { from: src/*.scss, to: site, steps: [compile] }\n  tokens: { from: tokens/*.scss, to: gen }\n',
      'src/a.scss': '@use "../gen/colors";\na { color: colors.$ink }\n',
      'tokens/colors.scss': '$ink: red;\n',
    });
    await project.build();
    project.write('gen/colors.scss', '$ink: teal;\n');
    project.write('anvil.yaml', project.read('anvil.yaml').replace(/ {2}tokens.*\n/, ''));
    expect((await project.diagnose()).said).toEqual(['loyal-anvil: warning [output-edited]']);
    expect([project.exists('gen/colors.scss'), project.read('site/a.css')]).toEqual([
      true,
      expect.stringContaining('teal'),
    ]);
  });
});

describe('`build --dry-run`', () => {
  it('reports what would run and why, and writes nothing', async () => {
    const project = sass();
    const before = readdirSync(project.root, { recursive: true });
    const { stdout } = await project.run(['build', '--dry-run']);
    expect(stdout).toContain('would run 2 jobs, and up to 2 more');
    expect(readdirSync(project.root, { recursive: true })).toEqual(before);
    await project.build();
    project.write('src/_theme.scss', '$color: lime;\n');
    rmSync(project.path('site/b.css'));
    expect((await project.run(['build', '--dry-run', '--format', 'lines'])).stdout).toBe(
      'one\trun\tcompile\ta.scss\none\twrite\tsite/b.css\none\tmay write\tsite/a.css\n',
    );
    expect((await project.run(['build', '--dry-run'])).stdout).toContain(
      'compile a.scss  because src/_theme.scss changed',
    );
    expect(project.exists('site/b.css')).toBe(false);
    await project.build();
    expect((await project.run(['build', '--dry-run'])).stdout).toContain('has nothing to do: all 4 jobs up to date.');
  });
});
