import { readdirSync } from 'node:fs';
import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

const both = ['--profile', 'public', '--profile', 'kiosk'];

describe('editions', () => {
  it('are built together, each with its own parts and values, and leave each other alone', async () => {
    const project = TestProject.documented('editions.md');
    const run = await project.run(['build', ...both], { env: { FERNLIGHT_API: 'https://api.fernlight.example' } });
    expect(run).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual([
      'site/kiosk/index.html',
      'site/kiosk/js/main.js',
      'site/kiosk/map.html',
      'site/public/index.html',
      'site/public/js/main.js',
    ]);
    expect(project.read('site/public/index.html')).toBe('<h1>Tonight</h1>\n<p>Book a visit by telephone.</p>\n');
    expect(project.read('site/kiosk/index.html')).toBe('<h1>Tonight</h1>\n');
    expect(project.read('site/public/js/main.js')).toBe('fetch(`${"https://api.fernlight.example"}/tonight`);\n');
    expect(project.read('site/kiosk/js/main.js')).toContain('requestFullscreen');
    const files = project.files('site');
    // The variable is not set now.
    await project.build('--profile', 'public');
    expect(project.read('site/public/js/main.js')).toBe('fetch(`${"/api"}/tonight`);\n');
    expect(project.files('site')).toEqual(files);
    expect((await project.run(['build', ...both])).stdout).toMatch(/all unchanged[^]*all unchanged/);
    expect((await project.run(['build'], { env: { ANVIL_PROFILE: 'kiosk' } })).stdout).toContain('for kiosk');
    const { stdout } = await project.run(['list', ...both]);
    expect(stdout).toContain('site/public/index.html');
    expect(stdout).toContain('site/kiosk/map.html');
    // A profile that is gone leaves nothing.
    project.write(
      'anvil.yaml',
      project
        .read('anvil.yaml')
        .replace(/ {2}kiosk: .*\n/, '')
        .replace(/\[pages.*\]/, 'pages/*.html'),
    );
    project.write('scripts/main.js', 'fetch(`${API}/tonight`);\n');
    await project.build('--profile', 'public');
    expect(project.files('site')).toEqual(['site/public/index.html', 'site/public/js/main.js']);
  });

  it('are served from their own folder', async () => {
    const project = TestProject.documented('editions.md');
    const serve = await Serve.open(project, ['--profile', 'kiosk']);
    expect(await serve.page('/map.html')).toContain('You are here');
    await serve.end();
  });

  it('cannot be built together if they write the same files', async () => {
    const project = new TestProject({ 'a.css': '', 'anvil.yaml': pipeline('from: a.css\nto: site') });
    const args = ['build', '--profile', 'development', '--profile', 'production'];
    expect(await project.diagnose(args)).toMatchObject({ code: 2, said: ['anvil.yaml:4:9: error [profile-conflict]'] });
    expect((await project.run(['watch', ...args.slice(1)])).code).toBe(2);
  });

  it.each<[string, string, string]>([
    ['a.css', 'a\n/* anvil: only x */\nb\n/* anvil: end */\nc', 'a\nb\nc'],
    ['a.css', 'a\n/* anvil: only y */\nb\n/* anvil: end */\nc', 'a\nc'],
    ['a.scss', 'a\r\n  // anvil: only y, x\r\nb\r\n//anvil:end\r\n', 'a\r\nb\r\n'],
    [
      'a.html',
      '<!-- anvil: only y -->\n1\n<!-- anvil: only x -->\n2\n<!-- anvil: end -->\n3\n<!-- anvil: end -->\n4',
      '4',
    ],
    ['a.html', '{% comment %} anvil: only y {% endcomment %}\n1\n{# anvil: end #}\n2', '2'],
    ['a.hbs', '{{!-- anvil: only y --}}\n1\n{{! anvil: end }}\n2', '2'],
    ['a.yaml', '# anvil: only y\na: 1\n# anvil: end\nb: 2\n', 'b: 2\n'],
    ['a.tsx', '{/* anvil: only y */}\n<b/>\n{/* anvil: end */}\n', ''],
    ['a.js', 'const a = "// anvil: only y"; // anvil: end\n', 'const a = "// anvil: only y"; // anvil: end\n'],
  ])('cut parts of %s: %j', async (file, text, expected) => {
    const project = new TestProject({
      [file]: text,
      'anvil.yaml': `profiles: { x: {}, y: {} }\n${pipeline(`from: ${file}\nto: site\nsteps: [cut]`)}`,
    });
    await project.build('--profile', 'x');
    expect(project.read(`site/${file}`)).toBe(expected);
  });

  it('keep source maps exact', async () => {
    const project = new TestProject({
      'anvil.yaml': `profiles: { x: { maps: file }, y: {} }\n${pipeline('from: a.ts\nto: site\nsteps: [cut, compile, minify]')}`,
      'a.ts':
        '// anvil: only y\nconsole.log(1);\n// anvil: end\nconst hours: number = 4;\nconsole.log(hours);\nthrow new Error("late");\n',
    });
    await project.build('--profile', 'x');
    const column = project.read('site/a.js').indexOf('new Error');
    const map = new TraceMap(project.read('site/a.js.map'));
    expect(originalPositionFor(map, { line: 1, column })).toMatchObject({ source: '../a.ts', line: 6, column: 6 });
  });

  it('warn of comments in files that are not cut, once each', async () => {
    const css = '/* anvil: only x */\na { color: teal }\n/* anvil: end */\n';
    const project = TestProject.withPackages({
      'anvil.yaml': `profiles: { x: {} }
pipelines:
  styles: { from: "styles/*", to: site, steps: [cut, compile] }
  pages: { from: "pages/*", to: site, steps: [cut, render] }
`,
      'styles/a.scss': '@use "part";\n',
      'styles/_part.scss': css,
      'styles/b.less': '@import "../more/part.less";\n',
      'more/part.less': css,
      'pages/a.html': "---\nlayout: base\n---\n{% render 'foot' %}",
      'pages/b.html': "{% render 'foot' %}",
      'pages/c.hbs': '{{> head}}',
      'pages/d.pug': 'include ../parts/side',
      'layouts/base.html': '<!-- anvil: only x -->\n{{ content }}\n<!-- anvil: end -->\n',
      'parts/foot.liquid': '{# anvil: only x #}\n1\n{# anvil: end #}\n',
      'parts/head.hbs': '{{! anvil: only x }}\n1\n{{! anvil: end }}\n',
      'parts/side.pug': '//- anvil: only x\np 1\n//- anvil: end\n',
    });
    const { said } = await project.diagnose(['build', '--profile', 'x']);
    const files = ['more/part.less', 'styles/_part.scss', 'layouts/base.html', 'parts/foot.liquid', 'parts/head.hbs'];
    expect(said.filter((one) => !one.includes('template-code')).sort()).toEqual(
      [...files, 'parts/side.pug'].map((file) => `${file}:1:1: warning [cut-imported]`).sort(),
    );
  });

  it('keep values of the environment out of the state of builds', async () => {
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { constants: { API: { env: FERN_API, default: /api } } } }
pipelines: { scripts: { from: "*.js", to: site, steps: [compile] } }
`,
      'a.js': 'console.log(1);\n',
      'b.js': 'console.log(API);\n',
    });
    const env = { FERN_API: 'https://api.fernlight.example' };
    await project.run(['build'], { env });
    const folder = '.anvil-cache/store';
    const states = readdirSync(project.path(folder)).filter((path) => path.endsWith('.json'));
    expect(states.length).toBeGreaterThan(0);
    expect(states.filter((name) => project.read(`${folder}/${name}`).includes(env.FERN_API))).toEqual([]);
    project.write('a.js', 'console.log(2, API);\n');
    await project.run(['build'], { env });
    expect(project.read('site/a.js')).toBe(`console.log(2, "${env.FERN_API}");\n`);
  });

  it('keep secrets out of outputs and messages', async () => {
    const secret = 'night-key-4711';
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { constants: { KEY: { env: FERN_KEY, secret: true } } } }
pipelines:
  scripts: { from: a.js, to: site, steps: [compile] }
  stamps: { from: a.txt, to: site, steps: [run: node tools/stamp.mjs] }
  tasks: { steps: [run: node tools/fail.mjs] }
`,
      'a.js': '\nconsole.log(KEY);\n',
      'a.txt': 'a',
      'tools/stamp.mjs': 'process.stdout.write(process.env.FERN_KEY);\n',
      'tools/fail.mjs': 'console.error(`wrong ${process.env.FERN_KEY}`);\nprocess.exitCode = 1;\n',
    });
    expect((await project.diagnose()).said).toEqual(['anvil.yaml:1:45: error [constant-unset]']);
    const run = await project.diagnose(['build'], { env: { FERN_KEY: secret } });
    expect(run.said.filter((line) => line.includes('error')).sort()).toEqual([
      'a.js:2:13: error [constant-secret]',
      'a.txt: error [secret-written]',
      'loyal-anvil: error [command-failed]',
    ]);
    expect(run.stderr).toContain('wrong •••');
    // Copies, and results that were made before it was secret.
    const yaml =
      'pipelines:\n  copies: { from: copied.txt, to: site }\n  sheets: { from: a.css, to: site, steps: [minify] }\n';
    const leaks = new TestProject({ 'anvil.yaml': yaml, 'copied.txt': secret, 'a.css': `.${secret} { color: red }` });
    await leaks.build();
    leaks.write(
      'anvil.yaml',
      `profiles: { production: { constants: { KEY: { env: FERN_KEY, secret: true } } } }\n${yaml}`,
    );
    expect((await leaks.diagnose(['build'], { env: { FERN_KEY: secret } })).said).toEqual([
      'copied.txt: error [secret-written]',
      'a.css: error [secret-written]',
    ]);
    const left = ['', 'site', '.anvil-cache']
      .flatMap((folder) => project.files(folder || '.'))
      .map((path) => project.bytes(path));
    expect([run.stderr, ...left.map(String)].some((text) => text.includes(secret))).toBe(false);
  });
});
