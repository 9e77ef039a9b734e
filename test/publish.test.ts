import { execFileSync } from 'node:child_process';
import { chmodSync, cpSync, mkdirSync, readFileSync, renameSync, rmSync, symlinkSync, utimesSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

const sheets = (files: Record<string, string> = {}): TestProject =>
  new TestProject({
    'src/a.css': 'a { color: red }\n',
    'src/b.css': 'b { color: blue }\n',
    'anvil.yaml': pipeline('from: src/*.css\nto: site/css\nsteps: [minify]'),
    ...files,
  });

describe('publishing', () => {
  it('copies files byte for byte without steps', async () => {
    const bytes = Uint8Array.from({ length: 256 }, (_, at) => at);
    const project = new TestProject({
      'in/x.bin': bytes,
      'in/y.css': '\ufeffa { }\r\n',
      'anvil.yaml': pipeline('from: in/*\nto: out'),
    });
    await project.build('--profile', 'development');
    expect(project.bytes('out/x.bin')).toEqual(Buffer.from(bytes));
    expect(project.bytes('out/y.css')).toEqual(project.bytes('in/y.css'));
    expect(project.files('out')).toEqual(['out/x.bin', 'out/y.css']);
  });

  it('keeps the last good outputs of a renamed pipeline while it has errors', async () => {
    const project = sheets();
    await project.build();
    project.write('anvil.yaml', project.read('anvil.yaml').replace('one:', 'other:'));
    expect((await project.run(['build', '--dry-run', '--format', 'lines'])).stdout).not.toContain('remove');
    project.write('src/b.css', 'b { color: teal');
    expect((await project.run(['build'])).code).toBe(1);
    expect(project.files('site')).toEqual(['site/css/a.css', 'site/css/b.css']);
    rmSync(project.path('src/b.css'));
    expect((await project.build()).stdout).toContain('1 orphaned output removed');
    expect(project.files('site')).toEqual(['site/css/a.css']);
  });

  it('does not write unchanged files, and reports them', async () => {
    const project = sheets();
    expect((await project.build()).stdout).toMatch(/^one +2 sources +→ 2 outputs +2 written/m);
    const old = new Date('2001-02-03');
    utimesSync(project.path('site/css/a.css'), old, old);
    project.write('src/b.css', 'b { color: green }\n');
    expect((await project.build()).stdout).toMatch(/1 written, 1 unchanged/);
    expect(project.mtime('site/css/a.css')).toBe(old.getTime());
    expect(project.read('site/css/b.css')).toBe('b{color:green}');
    expect((await project.build()).stdout).toMatch(
      /^Done in .*: 2 outputs for production, all unchanged; 0 jobs run, 2 reused;/m,
    );
  });

  it('reports what was written, and its size', async () => {
    const { stdout } = await sheets().build();
    expect(stdout).toMatch(/^one +2 sources +→ 2 outputs +2 written +2 run +[\d.]+ m?s +25 B +\d+ B gzip$/m);
    expect(stdout).toMatch(
      /^Done in .*: 2 outputs for production, 2 written; 2 jobs run, 0 reused; 25 B, \d+ B gzip\.$/m,
    );
  });

  it('writes the same bytes on every run and in every folder', async () => {
    const [one, two] = [TestProject.demo(), TestProject.demo()];
    await Promise.all([one.build('--profile', 'development'), two.build('--profile', 'development')]);
    const files = one.files('site');
    expect(two.files('site')).toEqual(files);
    for (const path of files) expect(two.bytes(path).equals(one.bytes(path)), path).toBe(true);
  });

  it('publishes nothing of a pipeline with errors, and keeps its last good output', async () => {
    const project = sheets();
    await project.build();
    project.write('src/a.css', 'a { color: green }\n');
    project.write('src/b.css', 'b { color: green \n');
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['src/b.css:1:3: error [style-syntax]'] });
    expect(project.read('site/css/a.css')).toBe('a{color:red}');
    project.write('src/b.css', 'b { color: lime }\n');
    await project.build();
    expect(project.read('site/css/a.css') + project.read('site/css/b.css')).toBe('a{color:green}b{color:lime}');
  });

  it('removes outputs of removed sources, and empty folders that it created', async () => {
    const project = new TestProject({
      'src/a.txt': 'a',
      'src/deep/b.txt': 'b',
      'anvil.yaml': pipeline('from: src/**/*\nto: site'),
    });
    await project.build();
    rmSync(project.path('src/deep'), { recursive: true });
    expect((await project.build()).stdout).toMatch(/1 unchanged, 1 removed/);
    expect(project.files('site')).toEqual(['site/a.txt']);
    expect(project.exists('site/deep')).toBe(false);
  });

  it('replaces a folder that it created by a file, also if the user emptied the folder', async () => {
    const project = new TestProject({ 'src/a/b.txt': 'b', 'anvil.yaml': pipeline('from: src/**/*\nto: site') });
    await project.build();
    rmSync(project.path('site/a/b.txt'));
    rmSync(project.path('src/a'), { recursive: true });
    project.write('src/a', 'a');
    for (const done of ['1 written', '1 unchanged']) {
      expect((await project.build()).stdout).toContain(done);
      expect(project.files('site')).toEqual(['site/a']);
    }
    rmSync(project.path('src/a'));
    project.write('src/a/b.txt', 'b');
    await project.build();
    expect(project.files('site')).toEqual(['site/a/b.txt']);
  });

  it('removes outputs of the other profile, such as source maps', async () => {
    const project = sheets();
    await project.build('--profile', 'development');
    expect(project.files('site')).toContain('site/css/a.css.map');
    await project.build();
    expect(project.files('site')).toEqual(['site/css/a.css', 'site/css/b.css']);
  });

  it('removes outputs of removed pipelines', async () => {
    const project = sheets();
    await project.build();
    project.write('anvil.yaml', 'pipelines: { two: { from: src/a.css, to: site/css } }\n');
    await project.build();
    expect(project.files('site')).toEqual(['site/css/a.css']);
  });

  it('rejects two assets with the same path', async () => {
    const project = sheets({
      'src/c.css': '',
      'anvil.yaml': pipeline('from: src/*.css\nto: site\nsteps: [{ join: { into: c.css, match: "[ab].css" } }]'),
    });
    expect(await project.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:2:3: error [output-conflict]'] });
  });

  it('removes stale outputs once all pipelines are built: pages of a failed one may refer to them', async () => {
    const project = new TestProject({
      'anvil.yaml': `pipelines:
  styles: { from: "*.css", to: site }
  notes: { from: "*.scss", to: site, steps: [compile] }
`,
      'old.css': 'a { }\n',
      'note.scss': 'a { order: 1 }\n',
    });
    await project.build();
    renameSync(project.path('old.css'), project.path('new.css'));
    project.write('note.scss', 'a { order: 2\n');
    expect((await project.run(['build'])).code).toBe(1);
    expect(project.files('site')).toEqual(['site/new.css', 'site/note.css', 'site/old.css']);
    project.write('note.scss', 'a { order: 2 }\n');
    await project.build();
    expect(project.files('site')).toEqual(['site/new.css', 'site/note.css']);
  });
});

describe('files of the user', () => {
  it('are not overwritten, unless with --force', async () => {
    const project = sheets({ 'site/css/a.css': 'mine' });
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['loyal-anvil: error [output-foreign]'] });
    expect(project.files('site')).toEqual(['site/css/a.css']);
    expect(project.read('site/css/a.css')).toBe('mine');
    await project.build('--force');
    expect(project.read('site/css/a.css')).toBe('a{color:red}');
  });

  it('become outputs if their content is the same', async () => {
    const project = sheets({ 'site/css/a.css': 'a{color:red}' });
    await project.build();
    project.write('src/a.css', 'a{color:green}');
    await project.build();
    expect(project.read('site/css/a.css')).toBe('a{color:green}');
  });

  it('include edited outputs, which are preserved with a warning', async () => {
    const project = sheets();
    await project.build();
    project.write('site/css/a.css', 'edited');
    const run = await project.run(['build']);
    expect(run.code).toBe(0);
    expect(run.stderr).toContain('site/css/a.css was edited after it was written, so it was preserved.');
    expect(run.stdout).toContain('1 unchanged, 1 preserved');
    expect(project.read('site/css/a.css')).toBe('edited');
    rmSync(project.path('src/a.css'));
    expect((await project.diagnose()).said).toEqual(['loyal-anvil: warning [output-edited]']);
    expect(project.read('site/css/a.css')).toBe('edited');
    await project.build('--force');
    expect(project.exists('site/css/a.css')).toBe(false);
  });

  it('are not removed by `clean`', async () => {
    const project = sheets({ 'site/robots.txt': 'mine', 'site/css/mine.css': 'mine' });
    await project.build();
    project.write('site/css/b.css', 'edited');
    const run = await project.run(['clean']);
    expect(run).toMatchObject({ code: 0, stdout: 'Removed 1 output.\n' });
    expect(run.stderr).toContain('site/css/b.css was edited after it was written, so it was not removed.');
    expect(project.files('site')).toEqual(['site/css/b.css', 'site/css/mine.css', 'site/robots.txt']);
    expect((await project.run(['clean', '--force'])).stdout).toBe('Removed 1 output.\n');
    expect((await project.run(['clean', '--store'])).stdout).toBe('Nothing to remove.\n');
    expect(project.exists('.anvil-cache')).toBe(false);
  });

  it('are all that remains after `clean` on a fresh project', async () => {
    const project = sheets();
    const before = project.files();
    await project.build('--profile', 'development');
    await project.run(['clean']);
    expect(project.files()).toEqual(before);
    expect(project.exists('site')).toBe(false);
  });

  it('are recognized after packages were reinstalled', async () => {
    const project = sheets({ 'node_modules/x/package.json': '{}' });
    await project.build();
    rmSync(project.path('node_modules'), { recursive: true });
    project.write('src/a.css', 'a{color:green}');
    await project.build();
    expect(project.read('site/css/a.css')).toBe('a{color:green}');
    expect(project.read('.anvil-cache/.gitignore')).toBe('*\n');
  });

  it('are recognized where file systems have no stable time of birth', async () => {
    const project = new TestProject({
      'anvil.yaml': pipeline('from: a.css\nto: site'),
      'a.css': 'a { top: 0 }\n',
      // As on file systems that report the time of the last change instead.
      'birth.mjs': `import fs from 'node:fs';
import { syncBuiltinESMExports } from 'node:module';
for (const name of ['fstatSync', 'statSync', 'lstatSync']) {
  const original = fs[name];
  fs[name] = (...args) => {
    const stats = original(...args);
    if (stats?.ctimeNs !== undefined) stats.birthtimeNs = stats.ctimeNs;
    return stats;
  };
}
syncBuiltinESMExports();
`,
    });
    const env = { NODE_OPTIONS: `--import ${project.path('birth.mjs')}` };
    for (const text of ['a { top: 1 }\n', 'a { top: 2 }\n', 'a { top: 3 }\n']) {
      project.write('a.css', text);
      expect(await project.diagnose(['build'], { env })).toMatchObject({ code: 0, said: [] });
      expect(project.read('site/a.css')).toBe(text);
    }
    // A copy of the record is not trusted.
    const copy = new TestProject({ 'anvil.yaml': project.read('anvil.yaml'), 'a.css': 'a { top: 4 }\n' });
    cpSync(project.path('.anvil-cache'), copy.path('.anvil-cache'), { recursive: true });
    copy.write('site/a.css', 'a { top: 3 }\n/* by hand */\n');
    await copy.run(['build'], { env });
    expect(copy.read('site/a.css')).toContain('by hand');
    rmSync(copy.path('site'), { recursive: true });
    for (const text of ['a { top: 5 }\n', 'a { top: 6 }\n']) {
      copy.write('a.css', text);
      expect(await copy.diagnose(['build'], { env })).toMatchObject({ code: 0, said: [] });
    }
  });

  it.each([['scripts/*.js'], ['scripts/a.js']])('belong to the user once `from` has them: %s', async (glob) => {
    const copying = (from: string, to: string): string => `pipelines: { one: { from: "${from}", to: ${to} } }\n`;
    const project = new TestProject({ 'src/a.js': 'a;\n', 'anvil.yaml': copying('src/*.js', 'scripts') });
    await project.build();
    project.write('anvil.yaml', copying(glob, 'site'));
    expect((await project.run(['build', '--dry-run'])).stdout).not.toContain('remove');
    expect((await project.run(['clean'])).stdout).toBe('Nothing to remove.\n');
    expect((await project.diagnose(['build'])).said).toEqual(['scripts/a.js: warning [output-now-source]']);
    expect((await project.run(['clean'])).stdout).toBe('Removed 1 output.\n');
    project.write('anvil.yaml', copying('src/*.js', 'site'));
    await project.build();
    expect(project.exists('scripts/a.js')).toBe(true);
  });

  it('are not derived from a damaged record', async () => {
    const project = sheets();
    await project.build();
    project.write('.anvil-cache/outputs.jsonl', '{"output":"site/css/a.css","pipel');
    await project.build();
    expect((await project.run(['clean'])).stdout).toBe('Removed 2 outputs.\n');
  });
});

describe('file system errors', () => {
  it('are reported for unreadable sources', async () => {
    const project = sheets();
    project.openToAll();
    chmodSync(project.path('src/a.css'), 0o000);
    expect(await project.diagnose(['build'], { asNobody: true })).toMatchObject({
      code: 1,
      said: ['src/a.css: error [file-unreadable]'],
    });
  });

  it('are reported for sources that are not text', async () => {
    const project = sheets();
    project.write('src/a.css', Buffer.concat([Buffer.from('a{}\nb{color:'), Buffer.from([0xc3, 0x28])]));
    const run = await project.run(['build']);
    expect(run.code).toBe(1);
    expect(run.stderr).toContain('error  src/a.css:2:9  in one  [not-utf8]');
    expect(run.stderr).toContain('unexpected byte at offset 12');
  });

  it('leave nothing half-written in a read-only folder', async () => {
    const project = sheets();
    await project.build();
    project.openToAll();
    project.write('src/a.css', 'a{color:green}');
    project.write('src/c.css', 'c{}');
    chmodSync(project.path('src/c.css'), 0o666);
    chmodSync(project.path('site/css'), 0o555);
    expect(await project.diagnose(['build'], { asNobody: true })).toMatchObject({
      code: 1,
      said: ['loyal-anvil: error [output-unwritable]'],
    });
    expect(project.files('site')).toEqual(['site/css/a.css', 'site/css/b.css']);
    expect(project.read('site/css/a.css')).toBe('a{color:red}');
    chmodSync(project.path('site/css'), 0o777);
    expect((await project.diagnose(['build'], { asNobody: true })).code).toBe(0);
    expect(project.read('site/css/a.css')).toBe('a{color:green}');
  });

  it.skipIf(!canMount())('leaves nothing half-written on a disk that is full', async () => {
    const project = new TestProject({
      'src/a.txt': 'small',
      'src/b.txt': 'small',
      'anvil.yaml': pipeline('from: src/*\nto: site'),
    });
    mkdirSync(project.path('site'));
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=64k', 'tmpfs', project.path('site')]);
    try {
      await project.build();
      project.write('src/a.txt', 'changed');
      project.write('src/b.txt', 'x'.repeat(200_000));
      const run = await project.run(['build']);
      expect(run.code).toBe(1);
      expect(run.stderr).toContain('site/b.txt cannot be written: the disk is full.');
      expect(project.files('site')).toEqual(['site/a.txt', 'site/b.txt']);
      expect(project.read('site/a.txt') + project.read('site/b.txt')).toBe('smallsmall');
    } finally {
      execFileSync('umount', [project.path('site')]);
    }
  });

  it.skipIf(!canMount())('costs nothing but time when there is no room for the store', async () => {
    const project = sheets();
    for (let number = 0; number < 40; number++)
      project.write(`src/${String(number)}.css`, `a{--x:"${String(number).repeat(9000)}"}`);
    mkdirSync(project.path('.anvil-cache/store'), { recursive: true });
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=128k', 'tmpfs', project.path('.anvil-cache/store')]);
    try {
      for (const color of ['red', 'lime']) {
        project.write('src/a.css', `a { color: ${color} }`);
        const run = await project.run(['build', '--format', 'lines']);
        expect(run.code).toBe(0);
        expect(run.stderr.replace(/^.*\[store-unusable\]\n/m, '')).toBe('');
        expect(project.read('site/css/a.css')).toBe(`a{color:${color}}`);
      }
    } finally {
      execFileSync('umount', [project.path('.anvil-cache/store')]);
    }
  });

  it('do not result from extremely nested files', async () => {
    const project = sheets({ 'src/a.css': `${'@media print{'.repeat(20_000)}${'}'.repeat(20_000)}` });
    expect(await project.diagnose()).toMatchObject({ code: 1, said: ['src/a.css:1:6513: error [style-syntax]'] });
  });

  it('are reported if a file is in place of a folder', async () => {
    const project = sheets({ site: 'a file' });
    expect(await project.diagnose()).toMatchObject({
      code: 1,
      said: ['loyal-anvil: error [output-unwritable]', 'loyal-anvil: error [output-unwritable]'],
    });
    expect(project.read('site')).toBe('a file');
  });

  it('do not result from symbolic links to sources', async () => {
    const project = sheets({ 'elsewhere/c.css': 'c { }' });
    symlinkSync('../elsewhere/c.css', project.path('src/c.css'));
    await project.build();
    expect(project.files('site')).toEqual(['site/css/a.css', 'site/css/b.css', 'site/css/c.css']);
  });
});

/** Reports whether this process may mount a file system (bit 21 of its capabilities). */
function canMount(): boolean {
  const capabilities = /^CapEff:\s*([\da-f]+)/m.exec(readFileSync('/proc/self/status', 'utf8'))?.[1] ?? '0';
  return (BigInt(`0x${capabilities}`) & (1n << 21n)) !== 0n;
}
