import { mkdirSync, renameSync, rmSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { openBrowser, serveFolder } from './support/browser.js';
import { TestProject } from './support/project.js';
import { Watch } from './support/watch.js';

describe('files of packages', () => {
  it('are published as the documentation says, with a page of licences', async () => {
    const project = TestProject.documented('packages.md');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.files('site')).toEqual(['site/fonts/fernlight-regular.woff2', 'site/licences.html', 'site/main.js']);
    const page = project.read('site/licences.html');
    expect(page).toContain('<h2>fernlight-moon 2.0.1, MIT</h2>\n<pre>Permission is hereby granted');
    expect(page).not.toContain('fernlight-type');
    project.write('node_modules/fernlight-moon/LICENSE', 'None & <none>.');
    await project.build();
    expect(project.read('site/licences.html')).toContain('<pre>None &amp; &lt;none&gt;.</pre>');
  });

  it('have their licences listed if a sheet is compiled with partials of theirs', async () => {
    const project = TestProject.withPackages({
      'anvil.yaml': `pipelines:
  a: { from: src/a.scss, to: site, steps: [compile, link, prefix, minify, licences: sass.txt] }
  b: { from: src/b.less, to: site, steps: [compile, minify, licences: less.txt] }
`,
      'src/a.scss': '@use "pkg:moon/sass/new"; a { color: red }\n',
      'src/b.less': '@import "node_modules/moon/less/full";\n',
      'src/node_modules/moon/package.json': '{ "name": "moon", "version": "1.0.0", "license": "MIT" }',
      'src/node_modules/moon/sass/_new.scss': '.moon { color: black }\n',
      'src/node_modules/moon/less/full.less': '.moon { color: white }\n',
    });
    expect((await project.run(['build'])).stderr).toBe('');
    for (const name of ['sass', 'less']) expect(project.read(`site/${name}.txt`)).toBe('moon 1.0.0, MIT\n');
    expect(project.read('site/a.css')).toBe('.moon{color:#000}a{color:red}');
  });

  it('are found above the project and in scopes, without packages inside of them unless these are named', async () => {
    const project = new TestProject({
      'app/anvil.yaml': `pipelines:
  type: { from: ["pkg:@fernlight/type/**/*.css", "!pkg:@fernlight/type/**/b.css"], to: site/type }
  inner: { from: "pkg:@fernlight/type/node_modules/moon/*.css", to: site/moon, steps: [licences: licences.txt] }
`,
      '.git/HEAD': '',
      'node_modules/@fernlight/type/package.json': '{ "name": "@fernlight/type" }',
      'node_modules/@fernlight/type/css/a.css': 'a {}',
      'node_modules/@fernlight/type/css/b.css': 'b {}',
      'node_modules/@fernlight/type/node_modules/moon/package.json': '{ "name": "moon", "version": "1.0.0" }',
      'node_modules/@fernlight/type/node_modules/moon/m.css': 'm {}',
    });
    const { said } = await project.diagnose(['build'], { folder: 'app' });
    const manifest = '../node_modules/@fernlight/type/node_modules/moon/package.json';
    expect(said).toEqual([`${manifest}: warning [licence-missing]`]);
    expect(project.files('app/site')).toEqual([
      'app/site/moon/licences.txt',
      'app/site/moon/m.css',
      'app/site/type/css/a.css',
    ]);
    expect(project.read('app/site/moon/licences.txt')).toBe('moon 1.0.0\n');
    // A nearer copy is found first.
    project.write('app/node_modules/@fernlight/type/package.json', '{ "name": "@fernlight/type" }');
    project.write('app/node_modules/@fernlight/type/near.css', 'near {}');
    await project.run(['build'], { folder: 'app' });
    expect(project.files('app/site/type')).toEqual(['app/site/type/near.css']);
  });

  it('report packages that are not installed, and globs that are none', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { type: { from: ["pkg:fernlight-tipe/*.css", "!pkg:none/*"], to: site } }\n',
      'node_modules/fernlight-type/package.json': '{ "name": "fernlight-type" }',
    });
    const { said, stderr } = await project.diagnose();
    expect(said).toEqual(['anvil.yaml:1:29: error [package-missing]']);
    expect(stderr).toContain('`fernlight-tipe`');
    expect((await project.run(['build'])).stderr).toContain('Did you mean `fernlight-type`?');
    for (const glob of ['pkg:', 'pkg:fernlight-type', 'pkg:../x/*', 'pkg:fernlight-type/../*']) {
      project.write('anvil.yaml', `pipelines: { type: { from: "${glob}", to: site } }\n`);
      expect((await project.diagnose()).said[0], glob).toMatch(/^anvil.yaml:1:28: error \[path-(form|outside)\]$/);
    }
  });

  it('are published again when a package is updated in a session', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { type: { from: "pkg:fernlight-type/files/*", to: site } }\n',
      'node_modules/fernlight-type/package.json': '{ "name": "fernlight-type" }',
      'node_modules/fernlight-type/files/a.css': '1',
    });
    const watch = await Watch.start(project);
    project.write('node_modules/fernlight-type/files/a.css', '2');
    await watch.until(() => project.read('site/a.css') === '2');
    // As package managers do, in another folder that takes its place.
    project.write('node_modules/.fernlight-type-new/package.json', '{ "name": "fernlight-type" }');
    project.write('node_modules/.fernlight-type-new/files/b.css', '3');
    mkdirSync(project.path('node_modules/.old'));
    renameSync(project.path('node_modules/fernlight-type'), project.path('node_modules/.old/fernlight-type'));
    renameSync(project.path('node_modules/.fernlight-type-new'), project.path('node_modules/fernlight-type'));
    await watch.until(() => project.exists('site/b.css') && !project.exists('site/a.css'));
    await watch.end();
  });

  it('are found by scripts that are not linked, by import maps in pages', async () => {
    const project = TestProject.documented('packages.md');
    for (const path of project.files('node_modules')) project.write(`plain/${path}`, project.bytes(path));
    const module = (name: string, text: string, version = '1.0.0'): Record<string, string> => ({
      [`plain/node_modules/${name}/package.json`]: JSON.stringify({
        name: name.replace(/.*node_modules\//, ''),
        version,
        type: 'module',
        main: 'i.js',
        imports: { '#mark': './parts/mark.js' },
      }),
      [`plain/node_modules/${name}/i.js`]: text,
    });
    const files = {
      ...module('tide', "import { mark } from '#mark';\nimport { age } from 'age';\nexport const tide = mark + age;\n"),
      'plain/node_modules/tide/parts/mark.js': 'export const mark = "tide ";\n',
      ...module('tide/node_modules/age', 'export const age = 2;\n'),
      ...module('age', 'export const age = 1;\n'),
      'plain/scripts/more.js':
        "import { tide } from 'tide';\nimport { age } from 'age';\nwindow.told = tide + ' ' + age;\n",
    };
    for (const [path, text] of Object.entries(files)) project.write(path, text);
    project.write(
      'plain/index.html',
      `${project.read('plain/index.html')}<script type="module" src="more.js"></script>\n`,
    );
    for (const names of ['plain', 'hashed']) {
      project.write(
        'plain/anvil.yaml',
        project
          .read('plain/anvil.yaml')
          .replace(/^pipelines/, `profiles: { production: { names: ${names} } }\npipelines`),
      );
      expect(await project.run(['build'], { folder: 'plain' })).toMatchObject({ code: 0, stderr: '' });
      const browser = await openBrowser();
      const { url, close } = await serveFolder(project.path('plain/site'));
      const page = await browser.newPage();
      await page.goto(`${url}index.html`);
      await page.waitForFunction('window.told');
      expect([await page.title(), await page.evaluate('window.told')]).toEqual(['waxing', 'tide 2 1']);
      await browser.close();
      close();
      rmSync(project.path('plain/site'), { recursive: true });
    }
    expect(project.files('plain/site')).toEqual([]);
  });
});
