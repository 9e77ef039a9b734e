import { chmodSync, mkdirSync, rmSync } from 'node:fs';
import { createServer } from 'node:net';
import { setTimeout as pause } from 'node:timers/promises';
import { describe, expect, it } from 'vitest';
import { BuildProgress } from '#modules/cli/terminal/build-progress.js';
import { pipeline, TestProject } from './support/project.js';
import { Terminal } from './support/terminal.js';

/** A project that minifies two sheets into `site`. */
function sheets(files: Record<string, string> = {}, more = ''): TestProject {
  return new TestProject({
    'src/a.css': 'a { color: red }\n',
    'src/b.css': 'b { color: blue }\n',
    ...files,
    'anvil.yaml': `${pipeline('from: src/*.css\nto: site\nsteps: [minify]', 'profiles: { development: { maps: none } }\n')}${more}`,
  });
}

describe('a session on a terminal', () => {
  it('reacts to keys', async () => {
    const project = sheets({ 'src/a.css': 'a { color: red' });
    const terminal = new Terminal(project);
    await terminal.sees('[style-syntax]');
    await terminal.sees('Press h for help, q to quit.');
    terminal.type('h');
    await terminal.sees('rebuild everything');
    terminal.type('d');
    await terminal.sees('[style-syntax]');
    terminal.type('r');
    await terminal.sees('Rebuilt');
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });

  it('reports what broke, what was fixed and what was removed', async () => {
    const project = sheets();
    const file = project.read('anvil.yaml');
    const more = '  more: { from: src/b.css, to: more }\n';
    project.write('anvil.yaml', file + more);
    const terminal = new Terminal(project);
    await terminal.sees('q to quit.');
    project.write('src/a.css', 'a { color: red');
    await terminal.sees('src/a.css changed');
    await terminal.sees('[style-syntax]');
    await terminal.sees('in one; the others are up to date');
    project.write('src/a.css', 'a { color: navy }');
    await terminal.sees('fixed: one');
    await terminal.sees('done in');
    project.write('anvil.yaml', file + more.replace('from', 'form'));
    await terminal.sees('[unknown-key]');
    await terminal.sees('FAILED; the last valid version stays in use');
    project.write('src/a.css', 'a { color: teal }');
    await terminal.sees('minify 1');
    project.write('anvil.yaml', file);
    await terminal.sees('1 orphaned output removed');
    await terminal.sees('fixed: anvil.yaml');
    expect([project.exists('more/b.css'), project.read('site/a.css')]).toEqual([false, 'a{color:teal}']);
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });

  it('reports pending changes at the start, and the number of changed files if there are many', async () => {
    const names = [...'cdefghij'].map((name) => `src/${name}.css`);
    const files = Object.fromEntries(names.map((path) => [path, 'a { b: c }\n']));
    const project = sheets({ ...files, 'slow.scss': '' }, '  slow: { from: slow.scss, to: slow, steps: [compile] }\n');
    const first = new Terminal(project, 'watch --verbose');
    await first.sees('Built changes since the last session');
    await first.sees('minify 10');
    await first.sees('            site/a.css\r\n            site/b.css');
    await first.sees('q to quit.');
    first.type('x');
    first.type('\u0003');
    expect(await first.ended).toBe(130);
    const second = new Terminal(project);
    await second.sees('Up to date');
    await second.sees('0 jobs run, 11 reused');
    // Changes during a build are collected for the next one.
    project.write('slow.scss', '@for $i from 1 through 60000 { .a#{$i} { width: $i * 1px } }\n');
    await second.sees('slow.scss changed');
    for (const path of names) project.write(path, 'a { b: d }\n');
    expect(await second.sees('more files changed')).toMatch(/src\/c\.css, src\/d\.css, src\/e\.css and 5 $/);
    second.type('q');
    expect(await second.ended).toBe(0);
  });

  it('resumes blocked pipelines after a fix, and building after a conflict', async () => {
    const project = sheets({}, '  later: { from: site/*.css, to: later }\n');
    project.write('src/a.css', 'a { color: red');
    const terminal = new Terminal(project);
    await terminal.sees('FAILED; previous outputs kept');
    await terminal.sees('BLOCKED by one');
    await terminal.sees('in one; later blocked');
    project.write('src/a.css', 'a { color: red }');
    await terminal.sees('copied');
    await terminal.sees('fixed: one');
    await terminal.sees('done in');
    // Two sources with the same output: the project file is valid, but nothing can be built.
    project.write('anvil.yaml', project.read('anvil.yaml').replace('src/*.css', '["src/*.css", "*.css"]'));
    await terminal.sees('done with 1 warning in');
    project.write('a.css', '');
    await terminal.sees('[output-conflict]');
    await terminal.sees('FAILED; nothing is built until this is fixed');
    rmSync(project.path('a.css'));
    await terminal.sees('fixed: anvil.yaml');
    await terminal.sees('done with 1 warning in');
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });

  it('shows progress of slow builds, and clears it', async () => {
    const slow = '@for $i from 1 through 60000 { .a#{$i} { width: $i * 1px } }\n';
    const project = new TestProject({
      'src/a.scss': slow,
      'src/b.scss': slow,
      'anvil.yaml': pipeline('from: src/*.scss\nto: site\nsteps: [compile]'),
    });
    const terminal = new Terminal(project, 'build', { CI: undefined });
    await terminal.sees('one: compile');
    await terminal.sees('2 outputs for');
    expect(await terminal.ended).toBe(0);
  });

  it('ends every command in order by the keys of the terminal', async () => {
    const project = new TestProject({
      'anvil.yaml': `serve: { folder: site }
pipelines:
  slow: { steps: [{ run: { command: node slow.mjs, writes: gen.css } }] }
  sheets: { from: src/*.css, to: site }
`,
      'src/a.css': 'a { color: teal }\n',
      'slow.mjs':
        "import { writeFileSync } from 'node:fs';\nwriteFileSync('started', String(process.pid));\nsetTimeout(() => {}, 60_000);\n",
    });
    const [interrupt, quit] = ['\x03', '\x1c'];
    for (const [command, key] of [
      ['build', interrupt],
      ['build', quit],
      ['watch', interrupt],
      ['serve', quit],
    ] as const) {
      const terminal = new Terminal(project, `${command} --profile production`, { CI: undefined });
      while (!project.exists('started')) await pause(20);
      // The line that moves is shown by now.
      await pause(400);
      terminal.type(key);
      if (command === 'build') await terminal.sees('Interrupted in');
      expect([command, await terminal.ended]).toEqual([command, 130]);
      expect(() => process.kill(Number(project.read('started')), 0)).toThrow('ESRCH');
      rmSync(project.path('started'));
    }
    for (const command of [
      'list',
      'why site/a.css',
      'report',
      'clean',
      'schema',
      'completion bash',
      'init',
      'help',
      'build --dry-run',
    ])
      for (const wait of [60, 120, 180]) {
        const terminal = new Terminal(project, command);
        await pause(wait);
        terminal.type(interrupt);
        expect([0, 130, 1]).toContain(await terminal.ended);
        expect(terminal.shown, command).not.toMatch(/Internal|^ {4}at /m);
      }
    expect(project.files('.anvil-cache').filter((path) => path.includes('trial'))).toEqual([]);
  });

  it('reports the address of the site, its visitors, and page updates', async () => {
    const blocker = createServer();
    await new Promise<void>((listening) => blocker.listen(0, '0.0.0.0', listening));
    const { port } = blocker.address() as { port: number };
    const project = sheets(
      { 'pages/index.html': '<p>I' },
      '  pages: { from: pages/*, to: site }\nserve: { folder: site }\n',
    );
    mkdirSync(project.path('.git'));
    project.write('show.sh', '#!/bin/sh\nprintf %s "$1" > "$(dirname "$0")/shown"\n');
    chmodSync(project.path('show.sh'), 0o755);
    const terminal = new Terminal(project, `serve --host 0.0.0.0 --port ${String(port)}`, {
      BROWSER: project.path('show.sh'),
      DISPLAY: undefined,
      WAYLAND_DISPLAY: undefined,
    });
    await terminal.sees(`Port ${String(port)} is in use; using `);
    await terminal.sees('Serving site at http://127.0.0.1:');
    const url = `http://127.0.0.1:${(await terminal.sees('/')).trim()}/`;
    await terminal.sees('Press h for help, q to quit.');
    blocker.close();
    terminal.type('o');
    const left = new AbortController();
    // A response that nothing refers to may be collected, which closes its connection.
    const pages: Response[] = [];
    const open = async (page: string): Promise<void> => {
      const headers = { 'user-agent': 'Firefox/140.0' };
      pages.push(await fetch(`${url}.loyal-anvil/events?page=${page}`, { headers, signal: left.signal }));
    };
    await open('/');
    await terminal.sees('/ opened in Firefox');
    await open('/index.html');
    await terminal.sees('/index.html opened in Firefox');
    project.write('src/a.css', 'a { color: teal }');
    await terminal.sees('2 pages: /a.css updated');
    project.write('src/a.css', 'a { color: teal');
    await terminal.sees('2 pages: 1 problem shown');
    project.write('src/a.css', 'a { color: teal }');
    await terminal.sees('2 pages: errors cleared');
    // While Git is running, the session waits: a slow operation is still a single change.
    project.write('.git/index.lock', '');
    for (const name of 'cdefgh') project.write(`src/${name}.css`, 'a { b: c }');
    rmSync(project.path('.git/index.lock'));
    await terminal.sees('2 pages: /c.css, /d.css, /e.css and 3 more files updated');
    while (!project.exists('shown')) await pause(20);
    expect(project.read('shown')).toBe(url);
    expect(pages.map(({ status }) => status)).toEqual([200, 200]);
    left.abort();
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });

  it('shows the sizes that a change affects, and each job with --verbose', async () => {
    const project = sheets();
    const terminal = new Terminal(project, 'watch --sizes --verbose');
    await terminal.sees('site/a.css  12 B, 32 B gzip');
    await terminal.sees('q to quit.');
    project.write('src/a.css', 'a { color: teal }\n');
    await terminal.sees('site/a.css  13 B (+1 B), 33 B (+1 B) gzip');
    expect(await terminal.sees('src/a.css')).toMatch(/minify +\d+ ms +$/);
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });

  it('rings the bell when builds begin to fail, and when they work again, on request', async () => {
    const project = sheets();
    const terminal = new Terminal(project, 'watch --notify');
    expect(await terminal.sees('q to quit.')).not.toContain('\u0007');
    project.write('src/a.css', 'a { color: red');
    await terminal.sees('\u0007');
    project.write('src/b.css', 'b { color: red');
    await terminal.sees('2 errors in one');
    project.write('src/a.css', 'a { color: red }');
    expect(await terminal.sees('1 error in one')).not.toContain('\u0007');
    project.write('src/b.css', 'b { color: red }');
    await terminal.sees('\u0007');
    terminal.type('q');
    expect(await terminal.ended).toBe(0);
  });
});

describe('progress', () => {
  it('says what runs, how many jobs are done, and how long the others take', () => {
    let time = 0;
    const progress = new BuildProgress(() => time);
    const started = { event: 'build-started', profile: 'x', pipelines: ['a', 'b'], jobs: [40, 20] } as const;
    expect(progress.text(started)).toBeUndefined();
    expect(progress.text({ event: 'pipeline-started', pipeline: 'a', sources: 20 })).toBe('a (0 of 60 jobs)');
    time = 100;
    const job = { event: 'job-done', pipeline: 'a', step: 'minify', done: 1, total: 10 } as const;
    // Half of the sources have not changed.
    expect(progress.text(job)).toBe('a: minify (1 of 40 jobs)');
    for (let at = 0; at < 8; at++) progress.text(job);
    time = 2000;
    expect(progress.text(job)).toBe('a: minify (10 of 40 jobs, about 6.00 s left)');
  });
});
