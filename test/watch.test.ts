import { execFileSync, spawnSync } from 'node:child_process';
import { isDeepStrictEqual } from 'node:util';
import {
  appendFileSync,
  existsSync,
  mkdirSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  symlinkSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { afterEach, describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';
import { Watch, type WatchEvent } from './support/watch.js';

let watch: Watch | undefined;

afterEach(async () => {
  await watch?.end('SIGKILL');
  watch = undefined;
});

const sheets = (
  files: Record<string, string> = {},
  yaml = 'from: src/**/*.css\nto: site\nsteps: [minify]',
): TestProject =>
  new TestProject({
    'src/a.css': 'a { color: red }\n',
    'src/b.css': 'b { color: blue }\n',
    'anvil.yaml': pipeline(yaml, 'profiles: { development: { maps: none } }\n'),
    ...files,
  });

const start = async (
  project: TestProject,
  args: readonly string[] = [],
  command: readonly string[] = [],
): Promise<Watch> => (watch = await Watch.start(project, args, command));

/** The number of jobs that ran in a round. */
const ran = (done: WatchEvent): number => (done['jobs'] as { run: number }).run;

describe('watching', () => {
  it('builds changes made while it was not running, and nothing else', async () => {
    const project = sheets();
    await project.build('--profile', 'development');
    project.write('src/b.css', 'b { color: green }\n');
    project.write('src/c.css', 'c { color: lime }\n');
    rmSync(project.path('src/a.css'));
    const { events } = await start(project);
    expect(ran(events.find((one) => one.event === 'build-done')!)).toBe(2);
    expect(project.files('site')).toEqual(['site/b.css', 'site/c.css']);
    expect(project.read('site/b.css')).toBe('b{color:green}');
  });

  it('rebuilds a file saved in place, and nothing else', async () => {
    const project = sheets();
    await start(project);
    const done = await watch!.round(() => project.write('src/a.css', 'a { color: lime }\n'));
    expect(done['jobs']).toEqual({ run: 1, reused: 1 });
    expect(watch!.last('changed')).toMatchObject({ paths: ['src/a.css'] });
    expect(watch!.last('pipeline-done')).toMatchObject({ outputs: [{ path: 'site/a.css', state: 'written' }] });
    expect(project.read('site/a.css')).toBe('a{color:lime}');
  });

  it('reports added, changed and removed files, but no temporary files of editors', async () => {
    const project = sheets();
    await start(project);
    await watch!.round(() => {
      project.write('src/a.css', 'a { color: lime }\n');
      project.write('src/c.css', 'c { color: teal }\n');
      project.write('src/a.css~', 'a { }\n');
      project.write('src/4913', '');
      rmSync(project.path('src/b.css'));
    });
    const isDone = (): boolean => project.exists('site/c.css') && !project.exists('site/b.css');
    await watch!.until(() => isDone() && watch!.isWaiting);
    const all = watch!.events.filter((one) => one.event === 'changed');
    const of = (key: string): unknown[] => all.flatMap((one) => one[key] as string[]).sort();
    expect([of('paths'), of('added'), of('removed')]).toEqual([
      ['src/a.css', 'src/b.css', 'src/c.css'],
      ['src/c.css'],
      ['src/b.css'],
    ]);
  });

  it('warms up while it waits, and leaves no trace of it', async () => {
    const project = sheets(
      { 'src/c.scss': '@use "d"; c { color: d.$ink }\n', 'src/_d.scss': '$ink: red;\n', 'src/e.scss': '@warn "x";\n' },
      'from: src/*.{css,scss}\nto: site\nsteps: [compile, minify, join: all.css]',
    );
    await start(project);
    const before = watch!.events.length;
    const states = (): unknown[] => project.files().map((path) => [path, project.mtime(path), project.read(path)]);
    const untouched = states();
    await pause(1500);
    // Late events of its own writes cause no output: the session keeps waiting.
    expect(watch!.events.slice(before).filter((one) => one.event !== 'waiting')).toEqual([]);
    expect(states()).toEqual(untouched);
    const done = await watch!.round(() => project.write('src/_d.scss', '$ink: lime;\n'));
    expect(done['jobs']).toEqual({ run: 3, reused: 6 });
    expect(project.read('site/all.css')).toContain('c{color:lime}');
  });

  it('rebuilds a file saved by renaming, repeatedly', async () => {
    const project = sheets();
    await start(project);
    for (const color of ['lime', 'teal', 'navy']) {
      await watch!.round(() => {
        project.write('src/.a.css.swp', `a { color: ${color} }\n`);
        renameSync(project.path('src/a.css'), project.path('src/a.css~'));
        renameSync(project.path('src/.a.css.swp'), project.path('src/a.css'));
        rmSync(project.path('src/a.css~'));
      });
      expect(project.read('site/a.css')).toBe(`a{color:${color}}`);
    }
  });

  it('waits for a file that is emptied before it is written', async () => {
    const project = sheets();
    await start(project);
    const emptied = Date.now();
    truncateSync(project.path('src/a.css'), 0);
    await pause(20);
    writeFileSync(project.path('src/a.css'), 'a { color: lime }\n');
    const gap = Date.now() - emptied;
    await watch!.shows(() => project.read('site/a.css') === 'a{color:lime}');
    // On a machine that was suspended in between, waiting longer would have been wrong.
    if (gap < 50) expect(watch!.count('build-done')).toBe(2);
  });

  it('shows no error while an editor renames a module and changes the files that import it', async () => {
    const project = new TestProject({
      'anvil.yaml': pipeline(
        'from: src/main.js\nto: site\nsteps: [link]',
        'profiles: { development: { maps: file } }\n',
      ),
      'src/main.js': "import { moon } from './moon.js';\nimport './stars.js';\nconsole.log(moon);\n",
      'src/stars.js': "import { moon } from './moon.js';\nconsole.log(moon + 1);\n",
      'src/moon.js': 'export const moon = 27;\n',
    });
    await start(project);
    renameSync(project.path('src/moon.js'), project.path('src/luna.js'));
    for (const path of ['src/main.js', 'src/stars.js']) {
      await pause(30);
      project.write(path, project.read(path).replace('moon.js', 'luna.js'));
    }
    const isShown = (): boolean => /luna/.test(readFileSync(project.path('site/main.js.map'), 'utf8'));
    await watch!.shows(isShown);
    expect(watch!.count('diagnostic')).toBe(0);
  });

  it('ends with the complete file after reading a half-written one', async () => {
    const project = sheets();
    await start(project);
    writeFileSync(project.path('src/a.css'), 'a { color: li');
    await pause(300);
    appendFileSync(project.path('src/a.css'), 'me }\n');
    await watch!.shows(() => project.read('site/a.css') === 'a{color:lime}');
  });

  it('ignores files that were touched or saved without changes', async () => {
    const project = sheets();
    await start(project);
    const before = project.mtime('site/a.css');
    project.write('src/a.css', 'a { color: red }\n');
    await pause(300);
    expect(watch!.count('build-done')).toBe(1);
    expect(project.mtime('site/a.css')).toBe(before);
  });

  it('includes new files and folders that match, and drops removed ones', async () => {
    const project = sheets();
    await start(project);
    await watch!.round(() => project.write('src/c.css', 'c { color: lime }\n'));
    project.write('src/deep/er/d.css', 'd { color: lime }\n');
    await watch!.shows(() => project.exists('site/deep/er/d.css'));
    project.write('src/deep/er/e.css', 'e { color: lime }\n');
    await watch!.shows(() => project.exists('site/deep/er/e.css'));
    rmSync(project.path('src/c.css'));
    await watch!.shows(() => !project.exists('site/c.css'));
    renameSync(project.path('src/deep'), project.path('src/moved'));
    await watch!.shows(() => project.exists('site/moved/er/e.css') && !project.exists('site/deep'));
    project.write('src/moved/er/e.css', 'e { color: navy }\n');
    await watch!.shows(() => project.read('site/moved/er/e.css') === 'e{color:navy}');
  });

  it('notices a folder that is removed and restored', async () => {
    const project = sheets({ 'src/deep/c.css': 'c { color: lime }' });
    await start(project);
    renameSync(project.path('src'), project.path('away'));
    await watch!.shows(() => project.files('site').length === 0);
    renameSync(project.path('away'), project.path('src'));
    await watch!.shows(() => project.files('site').length === 3);
    rmSync(project.path('src'), { recursive: true });
    mkdirSync(project.path('src'));
    project.write('src/deep/c.css', 'c { color: navy }');
    await watch!.shows(
      () => project.files('site').join() === 'site/deep/c.css' && project.read('site/deep/c.css') === 'c{color:navy}',
    );
    project.write('src/deep/c.css', 'c { color: teal }');
    await watch!.shows(() => project.read('site/deep/c.css') === 'c{color:teal}');
  });

  it('follows partials, and notices one of higher precedence', async () => {
    const yaml = 'from: src/*.scss\nto: site\nsteps: [{ compile: { loadPaths: lib } }, minify]';
    const project = sheets(
      {
        'src/a.scss': '@use "part";\na { color: part.$color }\n',
        'src/b.scss': 'b { color: blue }\n',
        'lib/_part.scss': '$color: red;\n',
      },
      yaml,
    );
    await start(project);
    const done = await watch!.round(() => project.write('lib/_part.scss', '$color: lime;\n'));
    expect(done['jobs']).toEqual({ run: 2, reused: 2 });
    expect(project.read('site/a.css')).toBe('a{color:lime}');
    await watch!.round(() => project.write('src/_part.scss', '$color: navy;\n'));
    expect(project.read('site/a.css')).toBe('a{color:navy}');
    await watch!.round(() => rmSync(project.path('src/_part.scss')));
    expect(project.read('site/a.css')).toBe('a{color:lime}');
  });

  it('ends with the last state if files change during a build', async () => {
    const slow = (color: string): string =>
      `@for $i from 1 through 40000 { .a#{$i} { width: $i * 1px } }\na { color: ${color} }\n`;
    const project = sheets({ 'src/a.scss': slow('red') }, 'from: src/*.scss\nto: site\nsteps: [compile]');
    await start(project);
    project.write('src/a.scss', slow('lime'));
    await watch!.until(() => watch!.count('build-started') === 2);
    await pause(50);
    project.write('src/a.scss', 'a { color: navy }\n');
    await watch!.shows(() => project.read('site/a.css').includes('navy'));
    expect(watch!.count('diagnostic')).toBe(0);
    expect(project.read('site/a.css')).toBe('a {\n  color: navy;\n}\n');
  });

  it('continues after errors, keeps the last good output, and reports recovery', async () => {
    const project = sheets();
    await start(project);
    const done = await watch!.round(() => project.write('src/a.css', 'a { color: red'));
    expect(done['done']).toBe(false);
    expect(watch!.last('diagnostic')).toMatchObject({ code: 'style-syntax', file: 'src/a.css' });
    expect(project.read('site/a.css')).toBe('a{color:red}');
    await watch!.round(() => project.write('src/a.css', 'a { color: lime }'));
    expect(watch!.last('recovered')).toMatchObject({ pipelines: ['one'] });
    expect(project.read('site/a.css')).toBe('a{color:lime}');
  });

  it('applies edits of the project file, and keeps the last valid one', async () => {
    const project = sheets();
    await start(project);
    const good = project.read('anvil.yaml');
    await watch!.round(() => project.write('anvil.yaml', good.replace('to: site', 'to: public')));
    expect([project.files('site'), project.files('public')]).toEqual([[], ['public/a.css', 'public/b.css']]);
    project.write('anvil.yaml', good.replace('from:', 'form:'));
    // The error follows on a line of its own.
    await watch!.until(() => watch!.count('config-error') === 1 && watch!.count('diagnostic') > 0);
    expect(watch!.last('diagnostic')).toMatchObject({ code: 'unknown-key', file: 'anvil.yaml' });
    await watch!.round(() => project.write('src/a.css', 'a { color: lime }'));
    expect(project.read('public/a.css')).toBe('a{color:lime}');
    await watch!.round(() => project.write('anvil.yaml', good));
    expect(watch!.last('recovered')).toMatchObject({ pipelines: ['anvil.yaml'] });
    expect([project.files('site'), project.files('public')]).toEqual([['site/a.css', 'site/b.css'], []]);
  });

  it('ignores its own outputs in a watched folder, and restores deleted ones', async () => {
    const project = sheets({}, 'from: "**/*.css"\nbase: src\nto: out\nsteps: [minify]');
    await start(project);
    await watch!.round(() => project.write('src/a.css', 'a { color: lime }'));
    await pause(300);
    expect(watch!.count('build-done')).toBe(2);
    await watch!.round(() => rmSync(project.path('out/a.css')));
    expect(project.files('out')).toEqual(['out/a.css', 'out/b.css']);
  });

  it('ignores outputs that it removes itself', async () => {
    const project = sheets();
    const more = '  two: { from: [site/deep/a.css, more.css], to: two, steps: [join: all.css] }\n';
    const file = `${pipeline('from: src/*.css\nto: site/deep')}${more}`;
    project.write('more.css', 'more { b: c }\n');
    project.write('anvil.yaml', file);
    await start(project);
    await watch!.round(() => project.write('anvil.yaml', file.replace('to: site/deep', 'to: site/flat')));
    await pause(500);
    expect([watch!.count('build-done'), watch!.count('changed')]).toEqual([2, 1]);
    // What another pipeline reads by name is its source from now on, whoever wrote it, and stays.
    expect(project.files('site')).toEqual(['site/deep/a.css', 'site/flat/a.css', 'site/flat/b.css']);
    expect(watch!.last('diagnostic')).toMatchObject({ code: 'output-now-source' });
    await watch!.round(() => project.write('site/deep/a.css', 'mine { b: c }\n'));
    expect(project.read('two/all.css')).toContain('mine');
    await watch!.round(() => rmSync(project.path('site'), { recursive: true }));
    expect(project.read('two/all.css')).not.toContain('mine');
    expect(project.files('site')).toEqual(['site/flat/a.css', 'site/flat/b.css']);
  });

  it('follows symbolic links to files and folders', async () => {
    const project = sheets({ 'far/c.css': 'c { color: red }', 'far/folder/d.css': 'd { color: red }' });
    symlinkSync('../far/c.css', project.path('src/c.css'));
    symlinkSync('../far/folder', project.path('src/linked'));
    symlinkSync('..', project.path('src/up'));
    await start(project);
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css', 'site/c.css', 'site/linked/d.css']);
    project.write('far/folder/d.css', 'd { color: lime }');
    await watch!.shows(() => project.read('site/linked/d.css') === 'd{color:lime}');
    project.write('far/c.css', 'c { color: lime }');
    await watch!.shows(() => project.read('site/c.css') === 'c{color:lime}');
  });

  it('handles any file name', async () => {
    const names = ['quote"\'s.css', 'line\nbreak.css', 'Sternwärte ☾.css', 'with space.css', '%41$&.css'];
    const project = sheets(Object.fromEntries(names.map((name) => [`src/${name}`, 'a { color: red }'])));
    await start(project);
    for (const name of names) {
      await watch!.round(() => project.write(`src/${name}`, 'a { color: lime }'));
      expect(project.read(`site/${name}`)).toBe('a{color:lime}');
    }
    expect((await project.run(['build', '--profile', 'development'])).code).toBe(0);
  });

  it('handles a branch switch that changes two thousand files at once', async () => {
    const project = sheets({ '.gitignore': 'site\n.anvil-cache\n' });
    const git = (...args: string[]): void =>
      void execFileSync('git', ['-c', 'user.name=Fern', '-c', 'user.email=fern@example.org', ...args], {
        cwd: project.root,
        stdio: 'pipe',
      });
    const fill = (color: string): void => {
      for (let number = 0; number < 2000; number++)
        project.write(`src/${String(number % 40)}/${String(number)}.css`, `a { color: ${color} }\n`);
    };
    git('init', '-q', '-b', 'main');
    fill('red');
    git('add', '.');
    git('commit', '-qm', 'red');
    git('checkout', '-qb', 'other');
    fill('blue');
    rmSync(project.path('src/7'), { recursive: true });
    project.write('src/new.css', 'a { color: lime }');
    git('add', '.');
    git('commit', '-qm', 'blue');
    git('checkout', '-q', 'main');
    await start(project);
    const all = (): Map<string, string> => new Map(project.files('site').map((path) => [path, project.read(path)]));
    const red = all();
    expect(red.size).toBe(2002);
    git('checkout', '-q', 'other');
    // It may wait briefly before all events have arrived: only the final state counts.
    const blues = (): number => [...all().values()].filter((text) => text === 'a{color:blue}').length;
    await watch!.shows(() => all().size === 1953 && blues() === 1950);
    expect([project.exists('site/new.css'), project.exists('site/7')]).toEqual([true, false]);
    const before = watch!.events.length;
    git('checkout', '-q', 'main');
    await watch!.shows(() => isDeepStrictEqual(all(), red));
    // All results of the first branch were still in the store.
    const rounds = watch!.events.slice(before).filter((one) => one.event === 'build-done');
    expect(rounds.reduce((sum, one) => sum + ran(one), 0)).toBe(0);
  });

  const canLimit =
    spawnSync('unshare', ['-Ur', 'sh', '-c', 'echo 1 > /proc/sys/user/max_inotify_watches']).status === 0;
  it.skipIf(!canLimit)('polls if the system does not allow more watches, and says so', async () => {
    const project = sheets({ 'src/deep/c.css': 'c { color: red }', 'src/deeper/d.css': 'd { color: red }' });
    const limited = ['unshare', '-Ur', 'sh', '-c', 'echo 1 > /proc/sys/user/max_inotify_watches; exec "$0" "$@"'];
    await start(project, [], limited);
    expect(watch!.events.find((one) => one.event === 'diagnostic')).toMatchObject({
      code: 'watch-limit',
      severity: 'warning',
    });
    expect(watch!.last('waiting')).toMatchObject({ isPolling: true });
    project.write('src/deeper/d.css', 'd { color: lime }');
    await watch!.shows(() => project.read('site/deeper/d.css') === 'd{color:lime}');
    project.write('src/deep/new.css', 'd { color: lime }');
    await watch!.shows(() => project.exists('site/deep/new.css'));
    // It keeps polling, without further output.
    const before = watch!.events.length;
    await pause(2500);
    expect(watch!.events.length).toBe(before);
  });

  it('runs beside a build in another profile: both report it, and it restores its outputs with the next change', async () => {
    const steps = 'steps: [{ minify: { only: production } }]';
    const project = new TestProject({
      'src/a.css': 'a { color: red }',
      'src/b.css': 'b { color: blue }',
      'anvil.yaml': `pipelines:\n  one: { from: src/*.css, to: site, ${steps} }\n  two: { from: site/*.css, to: two, steps: [join: all.css] }\n`,
    });
    await start(project);
    const release = await project.build();
    expect(release.stderr).toMatch(
      /^warning {2}\[project-shared\]\n {2}A session for `development` is already running/,
    );
    expect([project.read('site/a.css'), project.files('two')]).toEqual(['a{color:red}', ['two/all.css']]);
    await pause(500);
    expect([project.read('site/a.css'), watch!.count('build-done')]).toEqual(['a{color:red}', 1]);
    await watch!.round(() => project.write('src/b.css', 'b { color: lime }'));
    expect([project.read('site/a.css'), project.read('site/b.css')]).toEqual(['a { color: red }', 'b { color: lime }']);
    const notes = watch!.events.filter((one) => one.event === 'diagnostic');
    expect(notes).toMatchObject([{ code: 'outputs-restored', pipeline: 'one' }]);
    expect(notes[0]!['message']).toContain('site/a.css');
    await Promise.all([project.build(), project.build(), project.build()]);
    expect([project.read('site/a.css'), project.read('site/b.css')]).toEqual(['a{color:red}', 'b{color:lime}']);
  });

  it('notices a replaced package, also after all packages were removed, and later changes in it', async () => {
    const sheet = (color: string): string => `$color: ${color};\n`;
    const project = sheets(
      {
        'src/a.scss': '@use "pkg:fern/deep/colors" as c; a { b: c.$color }',
        'node_modules/fern/package.json': '{ "name": "fern" }',
        'node_modules/fern/deep/colors.scss': sheet('red'),
      },
      'from: src/*.scss\nto: site\nsteps: [compile, minify]',
    );
    await start(project);
    const shows = (color: string): Promise<void> => watch!.shows(() => project.read('site/a.css') === `a{b:${color}}`);
    const install = (color: string): void => {
      project.write('node_modules/.fern-new/package.json', '{ "name": "fern" }');
      project.write('node_modules/.fern-new/deep/colors.scss', sheet(color));
      if (project.exists('node_modules/fern'))
        renameSync(project.path('node_modules/fern'), project.path('node_modules/.fern-old'));
      renameSync(project.path('node_modules/.fern-new'), project.path('node_modules/fern'));
      rmSync(project.path('node_modules/.fern-old'), { recursive: true, force: true });
    };
    install('lime');
    await shows('lime');
    project.write('node_modules/fern/deep/colors.scss', sheet('teal'));
    await shows('teal');
    rmSync(project.path('node_modules'), { recursive: true });
    await watch!.until(() => watch!.last('build-done')!['done'] === false && watch!.isWaiting);
    install('navy');
    await shows('navy');
  });

  it('does not miss a change right after a build', async () => {
    const project = sheets({}, 'from: src/*.css\nto: site');
    await start(project);
    for (let round = 0; round < 60; round++) {
      const before = watch!.count('build-done');
      project.write('src/a.css', `a { order: ${String(round % 10)} }`);
      await watch!.until(() => watch!.count('build-done') > before);
    }
    await watch!.until(() => project.read('site/a.css').includes('order: 9'));
  });

  it('waits until Git has changed all files, and publishes nothing in between', async () => {
    const project = sheets();
    mkdirSync(project.path('.git'));
    await start(project);
    project.write('.git/index.lock', '');
    project.write('src/a.css', 'a { color: lime }');
    await pause(150);
    project.write('src/b.css', 'b { color: lime }');
    await pause(150);
    expect(watch!.count('build-started')).toBe(1);
    const done = await watch!.round(() => rmSync(project.path('.git/index.lock')));
    expect([ran(done), watch!.count('build-done')]).toEqual([2, 2]);
  });

  it.each(['removed', 'moved', 'replaced'])(
    'ends when the project folder is %s, and leaves nothing behind',
    async (how) => {
      const project = sheets();
      await start(project);
      const ended = watch!.end.bind(watch!, 0 as never);
      if (how === 'removed') rmSync(project.root, { recursive: true });
      else renameSync(project.root, `${project.root}-moved`);
      if (how === 'replaced') mkdirSync(project.root);
      expect(await ended()).toBe(1);
      expect(watch!.last('diagnostic')).toMatchObject({ code: 'project-gone' });
      expect(watch!.stderr).toBe('');
      expect(existsSync(project.root) ? readdirSync(project.root) : []).toEqual([]);
      rmSync(`${project.root}-moved`, { recursive: true, force: true });
    },
  );

  it('recovers from a terminated compiler, and reports the affected sheet', async () => {
    const project = sheets({ 'src/a.scss': 'a { b: c }\n' }, 'from: src/*.scss\nto: site\nsteps: [compile]');
    await start(project);
    const parent = ['-P', String(watch!.pid)];
    const compilers = (): string => spawnSync('pgrep', parent, { encoding: 'utf8' }).stdout;
    // A new process may start before the old one has ended: the program warms up for the next change.
    const first = compilers();
    spawnSync('pkill', ['-9', ...parent]);
    await watch!.until(() => !compilers().includes(first));
    await watch!.round(() => project.write('src/a.scss', 'a { b: d }\n'));
    expect(project.read('site/a.css')).toContain('b: d');
    const builds = watch!.count('build-done');
    project.write('src/a.scss', '@while true { }\n');
    while (watch!.count('build-done') === builds) {
      await pause(100);
      if (watch!.count('pipeline-started') > builds) spawnSync('pkill', ['-9', ...parent]);
    }
    expect(watch!.last('build-done')).toMatchObject({ done: false });
    expect(watch!.last('diagnostic')).toMatchObject({ code: 'compiler-ended', file: 'src/a.scss' });
    expect(project.read('site/a.css')).toContain('b: d');
    project.write('src/a.scss', 'a { b: e }\n');
    await watch!.shows(() => project.read('site/a.css').includes('b: e'));
    expect(watch!.stderr).toBe('');
  });

  it('aborts a sheet that takes too long, and terminates its compiler when killed', async () => {
    const project = sheets(
      { 'src/a.scss': '@while true { }\n', 'src/b.scss': 'b { c: d }\n' },
      'from: src/*.scss\nto: site\nsteps: [{ compile: { timeLimit: 1 } }]',
    );
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['src/a.scss: error [compiler-slow]'] });
    project.write('anvil.yaml', project.read('anvil.yaml').replace('timeLimit: 1', 'timeLimit: 3600'));
    watch = new Watch(project);
    await watch.until(() => watch!.count('pipeline-started') > 0);
    const inGroup = (): string => spawnSync('pgrep', ['-g', String(watch!.pid)], { encoding: 'utf8' }).stdout;
    await watch.until(() => inGroup().split('\n').length > 3);
    await watch.end('SIGKILL');
    await watch.until(() => inGroup() === '');
  });

  it('does not wait for endless sheets once they are fixed', async () => {
    const project = sheets({ 'src/a.scss': 'a { b: c }\n' }, 'from: src/*.scss\nto: site\nsteps: [compile]');
    await start(project);
    const compilers = (): string[] =>
      spawnSync('pgrep', ['-P', String(watch!.pid)], { encoding: 'utf8' })
        .stdout.trim()
        .split('\n');
    const [stuck] = compilers();
    for (let turn = 0; turn < 10; turn++) {
      project.write('src/a.scss', `// ${String(turn)}\n@while true { }\n`);
      await pause(60);
    }
    project.write('src/a.scss', 'a { b: d }\n');
    await watch!.shows(() => project.read('site/a.css').includes('b: d'));
    // A function that never returns ends with its process, and the next job gets a new one.
    await watch!.until(() => !compilers().includes(stuck!));
    await watch!.round(() => project.write('src/a.scss', 'a { b: e }\n'));
    expect(project.read('site/a.css')).toContain('b: e');
    expect(compilers()).toHaveLength(1);
  });

  it.each(['SIGINT', 'SIGTERM'] as const)('ends in order on %s, in the middle of a build', async (signal) => {
    const slow = '@for $i from 1 through 60000 { .a#{$i} { width: $i * 1px } }\n';
    const project = sheets({ 'src/a.scss': slow }, 'from: src/*.scss\nto: site\nsteps: [compile]');
    watch = new Watch(project);
    await watch.until(() => watch!.count('pipeline-started') > 0);
    await pause(400);
    expect(await watch.end(signal)).toBe(130);
    // The compiler process ends with the process that started it.
    await watch.until(() => spawnSync('pgrep', ['-g', String(watch!.pid)], { encoding: 'utf8' }).stdout === '');
    expect(project.files('site').filter((path) => path !== 'site/a.css')).toEqual([]);
    expect(watch.stderr).toBe('');
  });
});
