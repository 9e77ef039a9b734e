import { readFileSync, rmSync } from 'node:fs';
import { spawn, spawnSync } from 'node:child_process';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { describe, expect, it } from 'vitest';
import { parse } from 'yaml';
import { program } from './support/program.js';
import { pipeline, TestProject } from './support/project.js';

const sheet = (yaml = pipeline('from: a.css\nto: site\nsteps: [minify]')): TestProject =>
  new TestProject({ 'a.css': 'a { b: c }\n', 'anvil.yaml': yaml });

describe('the command line', () => {
  it('prints its version and its commands', async () => {
    const project = new TestProject();
    const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
      version: string;
    };
    expect(await project.run(['--version'])).toEqual({ code: 0, stdout: `${version}\n`, stderr: '' });
    expect(await project.run(['-V'])).toMatchObject({ code: 0, stdout: `${version}\n` });
    const help = await project.run([]);
    expect(help).toMatchObject({ code: 0, stdout: (await project.run(['--help'])).stdout });
    for (const command of ['init', 'build', 'list', 'clean', 'schema'])
      expect(help.stdout).toMatch(new RegExp(`^  ${command} `, 'm'));
  });

  it.each([
    [['bild'], 'Did you mean build?'],
    [['build', '--forc'], 'Did you mean --force?'],
    [['build', '--format', 'xml'], 'Allowed choices are pretty, lines, json, sarif.'],
    [['build', '--quiet', '--verbose'], 'cannot be used with'],
    [['schema', 'extra'], 'Too many arguments'],
    [['build', '--config', ''], 'Expected a file name.'],
    [['serve', '--host', ''], 'An address is a host name or an IP address.'],
    [['serve', '--port', '70000'], 'A port is a number up to 65535.'],
    [['help', 'biuld'], 'Did you mean build?'],
    [['help', 'polish'], "Unknown command 'polish'."],
  ])('answers wrong usage: %s', async (args, answer) => {
    const run = await sheet().run(args);
    expect(run).toMatchObject({ code: 2, stdout: '' });
    expect(run.stderr).toMatch(/^error {2}\[usage\]/);
    expect(run.stderr).toContain(answer);
  });

  it('prints nothing but diagnostics with --quiet, and every file with --verbose', async () => {
    expect(await sheet().run(['build', '--quiet'])).toEqual({ code: 0, stdout: '', stderr: '' });
    expect((await sheet().run(['build', '--verbose'])).stdout).toMatch(
      /^ {4}site\/a\.css {2}written +6 B +\d+ B gzip$/m,
    );
  });

  it('uses colours on request, and none in a pipe', async () => {
    const project = sheet();
    expect((await project.run(['build'], { env: { NO_COLOR: undefined } })).stdout).not.toContain('\u001b[');
    expect((await project.run(['build'], { env: { NO_COLOR: undefined, FORCE_COLOR: '1' } })).stdout).toContain(
      '\u001b[',
    );
    expect(
      (await project.run(['build', '--no-color'], { env: { NO_COLOR: undefined, FORCE_COLOR: '1' } })).stdout,
    ).not.toContain('\u001b[');
    expect((await project.run(['build'], { env: { NO_COLOR: '1', FORCE_COLOR: '1' } })).stdout).not.toContain(
      '\u001b[',
    );
  });

  it('writes one JSON event per line, all of one version', async () => {
    const project = sheet(pipeline('from: [a.css, b.css]\nto: site\nsteps: [minify]'));
    const events = await project.events(['build']);
    expect(events.map((one) => one['event'])).toEqual([
      'build-started',
      'diagnostic',
      'pipeline-started',
      'job-ran',
      'job-done',
      'pipeline-done',
      'build-done',
    ]);
    expect(events.every((one) => one['version'] === 1)).toBe(true);
    expect(events[1]).toMatchObject({
      code: 'glob-empty',
      severity: 'warning',
      file: 'anvil.yaml',
      range: { start: { line: 3, column: 19 } },
    });
    expect(events[3]).toMatchObject({ pipeline: 'one', step: 'minify', file: 'a.css', thread: 0 });
    expect(events[5]).toMatchObject({
      name: 'one',
      state: 'built',
      outputs: [{ path: 'site/a.css', state: 'written', bytes: 6 }],
    });
    expect(events[6]).toMatchObject({ profile: 'production', done: true, pipelines: ['one'], diagnostics: 1 });
  });

  it('writes results as plain lines with --format lines', async () => {
    const project = sheet();
    expect((await project.run(['build', '--format', 'lines'])).stdout).toBe('written\tsite/a.css\n');
    expect((await project.run(['list', '--format', 'lines'])).stdout).toBe(
      'one\tsource\ta.css\none\toutput\tsite/a.css\n',
    );
    expect((await project.run(['clean', '--format', 'lines'])).stdout).toBe('removed\tsite/a.css\n');
  });

  it('exits with 130 when interrupted, and leaves no half-written files', async () => {
    const project = new TestProject({ 'anvil.yaml': pipeline('from: src/*.scss\nto: site\nsteps: [compile]') });
    for (let at = 0; at < 400; at++)
      project.write(`src/${String(at)}.scss`, `@use "sass:math";\n${`a { b: math.div(1, 3) }\n`.repeat(200)}`);
    const child = spawn(
      process.execPath,
      [new URL('../dist/cli/bin.js', import.meta.url).pathname, 'build', '--format', 'json'],
      { cwd: project.root },
    );
    let stopped = false;
    child.stdout.on('data', (text: Buffer) => {
      if (!stopped && text.includes('job-done')) stopped = child.kill('SIGINT');
    });
    const code = await new Promise((done) => child.on('close', done));
    expect(code).toBe(130);
    expect(project.files('site')).toEqual([]);
  });

  it('says that too many files are open, whenever that happens', () => {
    const project = new TestProject({
      'anvil.yaml': pipeline('from: "*.{css,ts}"\nto: site\nsteps: [compile, minify]'),
      'a.css': 'a { b: c }',
      'a.ts': 'export const a: number = 1;\n',
    });
    const said = [24, 32, 40, 48, 56, 64, 80, 96].map((limit) => {
      const shell = `ulimit -n ${String(limit)} && exec "$0" "$@"`;
      const { status, stderr } = spawnSync('sh', ['-c', shell, process.execPath, program, 'build'], {
        cwd: project.root,
        encoding: 'utf8',
      });
      return status === 0 ? 'done' : stderr;
    });
    // Node.js takes a package for missing whose package.json it cannot open.
    const ofNode = /Cannot find (package|module)/;
    const isExpected = (one: string): boolean => one === 'done' || /^(Too|.*: too) many files are open\./m.test(one);
    const others = said.filter((one) => !ofNode.test(one));
    expect(others.filter((one) => !isExpected(one) || /Internal|^ +at /m.test(one))).toEqual([]);
    expect(others.filter((one) => one !== 'done').length).toBeGreaterThan(1);
  });

  it('lists the features that target browsers need prefixes for', async () => {
    const project = new TestProject({
      'anvil.yaml':
        'browsers: [safari 17.4, safari 18, chrome 120, op_mini all]\npipelines:\n  a: { from: [a.css, b.js], to: site, steps: [compile, prefix] }\n',
      'a.css': '',
      'b.js': 'open(dome?.door ?? 1n);\n',
    });
    const { stdout } = await project.run(['list', '--browsers']);
    expect(stdout).toMatch(
      /^4 target browsers for production\n {2}chrome {5}120\n {2}op_mini {4}all\n {2}safari {5}17\.4–18\.0\n/,
    );
    expect(stdout).toMatch(/^ {2}backdrop-filter +-webkit-backdrop-filter +safari 17\.4$/m);
    const { stdout: lines } = await project.run(['list', '--browsers', '--format', 'lines']);
    expect(lines).toContain('property\tuser-select\t-webkit-user-select\tsafari 18.0, safari 17.4\n');
    const events = await project.events(['list', '--browsers']);
    expect(events[0]).toMatchObject({ event: 'browsers', profile: 'production', browsers: { length: 4 } });
    // It renders pages on a server.
    expect(events.slice(1).filter((one) => JSON.stringify(one).includes('op_mini'))).toEqual([]);
    await project.build();
    expect(project.read('site/b.js')).toBe(project.read('b.js'));
  });

  it('prints a readable plan', async () => {
    const { stdout } = await TestProject.demo().run(['list', 'kiosk']);
    expect(stdout).toMatch(
      /^2 pipelines for production, in this order:\n\nstyles\n {2}from {8}styles\/booking\.scss\n/,
    );
    expect(stdout).toContain(
      '  steps       join kiosk.css → minify\n  to          site/css/kiosk.css\n  names       with a hash\n  compress    br, gzip\n  depends on  styles, which writes site/css/site.css\n',
    );
  });
});

describe('the JSON Schema', () => {
  const validator = async (): Promise<(yaml: string) => boolean> => {
    const schema = JSON.parse((await new TestProject().run(['schema'])).stdout) as object;
    const validate = new Ajv2020({ strict: true, strictTypes: false, strictRequired: false }).compile(schema);
    return (yaml) => validate(parse(yaml));
  };

  it('accepts and rejects the same files as the program', async () => {
    const accepts = await validator();
    const good = [
      'steps: [compile, { join: x.js }, { join: { into: x.js, banner: b, only: [a], match: "*" } }, { minify: null }, { compile: { loadPaths: [a] } }]',
      'after: [x]\nbase: y',
    ];
    const bad = [
      'steps: [join]',
      'steps: [minfy]',
      'steps: [{ minify: { level: 1 } }]',
      'steps: compile',
      'form: x',
      'after: 5',
      'steps: [{ compile: {}, join: x }]',
    ];
    for (const text of good) expect(accepts(pipeline(`from: a\nto: b\n${text}`)), text).toBe(true);
    for (const text of bad) expect(accepts(pipeline(`from: a\nto: b\n${text}`)), text).toBe(false);
    expect(accepts(pipeline('from: a'))).toBe(false);
    expect(
      accepts(
        pipeline(
          'from: a\nto: b',
          'browsers: [a, b]\nprofiles: { x: { maps: inline, constants: { A: null, b.c: 1 } }, y: }\nserve: { folder: b, port: 80 }\n',
        ),
      ),
    ).toBe(true);
    expect(accepts(pipeline('from: a\nto: b', 'profiles: { x: { maps: all } }\n'))).toBe(false);
    expect(accepts('{}')).toBe(false);
  });

  it('is the one beside the demo, and accepts its project file', async () => {
    const demo = TestProject.demo();
    expect((await demo.run(['schema'])).stdout).toBe(demo.read('anvil.schema.json'));
    expect((await validator())(demo.read('anvil.yaml'))).toBe(true);
  });
});

describe('a closed standard output', () => {
  it('does not affect the result of a build, and ends a session', async () => {
    const sheets = Object.fromEntries(
      Array.from({ length: 300 }, (_, at) => [`src/${String(at)}.css`, 'a { b: c }\n']),
    );
    const project = new TestProject({
      ...sheets,
      'src/wrong.css': 'a {\n',
      'more/a.css': 'a { b: c }\n',
      'anvil.yaml': `${pipeline('from: more/*.css\nto: site/more\nsteps: [minify]')}  two: { from: src/*.css, to: site, steps: [minify], after: one }\n`,
    });
    const first = async (args: readonly string[]): Promise<number | null> => {
      const child = spawn(process.execPath, [program, ...args], { cwd: project.root });
      child.stderr.resume();
      child.stdout.once('data', () => child.stdout.destroy());
      return new Promise((done) => child.on('exit', done));
    };
    expect(await first(['build', '--format', 'lines'])).toBe(1);
    rmSync(project.path('src/wrong.css'));
    expect(await first(['build', '--format', 'lines'])).toBe(0);
    expect(project.files('site')).toHaveLength(301);
    project.write('src/1.css', 'a { b: d }\n');
    expect(await first(['watch', '--format', 'lines'])).toBe(0);
  });
});
