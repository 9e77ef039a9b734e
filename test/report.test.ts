import { pathToFileURL } from 'node:url';
import { describe, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
import { TestProject } from './support/project.js';

interface Report {
  outputs: { path: string; gzipBytes: number; bytes: number; parts: { source: string; bytes: number }[] }[];
  duplicates: { kind: string; name: string; places: string[] }[];
  pages: { path: string; first: { files: string[] }; all: { files: string[] } }[];
  builds: { jobs: { run: number } }[];
  jobs: { step: string }[];
}

const reportOf = async (project: TestProject): Promise<Report> =>
  JSON.parse((await project.run(['report', '--json'])).stdout) as Report;

/** Two entry points that share nothing, with two versions of a package, a sheet with a partial, and a page. */
const files = {
  'anvil.yaml': `profiles: { production: { names: hashed } }
pipelines:
  app: { from: "scripts/*.js", to: site, steps: [link, minify] }
  styles: { from: styles/site.scss, to: site, steps: [compile, minify] }
  rest: { from: "pages/*", to: site }
`,
  'scripts/a.js': "import { rise } from 'moon';\nimport { old } from 'kit';\nconsole.log(rise, old);\n",
  'node_modules/moon/package.json': '{ "name": "moon", "version": "2.0.0", "main": "m.js", "type": "module" }',
  'node_modules/moon/m.js': 'export const rise = globalThis.rising + "the moon rises over the island";\n',
  'node_modules/kit/package.json': '{ "name": "kit", "main": "k.js", "type": "module" }',
  'node_modules/kit/k.js': "export { rise as old } from 'moon';\n",
  'node_modules/kit/node_modules/moon/package.json': '{ "name": "moon", "main": "m.js", "type": "module" }',
  'node_modules/kit/node_modules/moon/m.js': 'export const rise = globalThis.rose + "the old moon";\n',
  'styles/site.scss': '@use "part";\nb { color: red; margin: 1px 2px 3px; }\n',
  'styles/_part.scss': '.sky { color: navy; background: url(star.png); padding: 4px; }\n',
  'pages/index.html':
    '<!doctype html><title>F</title><link rel="stylesheet" href="site.css"><link rel="stylesheet" media="print" href="print.css"><script src="a.js" type="module"></script><a href="other.html">o</a>',
  'pages/other.html': '<!doctype html><title>O</title><script src="head.js"></script><p>',
  'pages/print.css': 'p { color: black }',
  'pages/head.js': 'let a;',
  'pages/star.png': 'picture',
  'pages/same.png': 'picture',
};

describe('a report', () => {
  it('knows what outputs are made of, what is there twice, and what pages load', async () => {
    const project = new TestProject(files);
    expect(await project.diagnose(['report'])).toMatchObject({ code: 2, said: ['loyal-anvil: error [why-unbuilt]'] });
    await project.build();
    await project.build();
    const report = await reportOf(project);
    const plain = (path: string): string => path.replace(/^site\//, '').replace(/-\w{10}\./, '.');
    const output = (name: string): Report['outputs'][number] =>
      report.outputs.find(({ path }) => plain(path) === name)!;
    const parts = (name: string): string[] => output(name).parts.map(({ source }) => source);
    expect(parts('a.js')).toEqual([
      'node_modules/moon/m.js',
      'node_modules/kit/node_modules/moon/m.js',
      'scripts/a.js',
    ]);
    expect(parts('site.css').sort()).toEqual(['styles/_part.scss', 'styles/site.scss']);
    for (const { bytes, parts: all } of report.outputs)
      expect(Math.abs(bytes - all.reduce((sum, one) => sum + one.bytes, 0))).toBeLessThan(3);
    expect(report.duplicates.map(({ kind, name, places }) => [kind, plain(name), places.length])).toEqual([
      ['package', 'moon', 2],
      ['output', 'same.png', 2],
    ]);
    expect(
      report.pages.map(({ path, first, all }) => [path, first.files.map(plain), all.files.map(plain).sort()]),
    ).toEqual([
      ['site/index.html', ['index.html', 'site.css'], ['a.js', 'index.html', 'print.css', 'site.css', 'star.png']],
      ['site/other.html', ['other.html', 'head.js'], ['head.js', 'other.html']],
    ]);
    expect([report.builds.length, report.builds[0]!.jobs.run, report.jobs.length]).toEqual([1, 4, 4]);
    project.write('styles/_part.scss', '.sky { color: teal }\n');
    await project.build();
    expect((await reportOf(project)).builds).toHaveLength(2);
  });

  it('checks limits in builds, and on request', async () => {
    const project = TestProject.documented('report.md');
    await project.build();
    const before = project.read('site/main.js');
    const limited = project.read('anvil.yaml').replace('js: 100 kB', 'js: 10 B').replace('css: 20 kB', 'jss: 1 kB');
    project.write('anvil.yaml', limited);
    project.write('main.js', 'document.title += " this week";\n');
    const { code, said, stderr } = await project.diagnose();
    expect([code, ...said]).toEqual([
      1,
      'anvil.yaml:5:12: warning [limit-empty]',
      'anvil.yaml:4:11: error [limit-exceeded]',
    ]);
    expect(stderr).toContain('over their limit of 10 B');
    expect(project.read('site/main.js')).toBe(before);
    project.write('anvil.yaml', limited.replace('10 B', '10'));
    expect((await project.diagnose()).said).toContain('anvil.yaml:4:11: error [wrong-type]');
    project.write('anvil.yaml', limited.replace('10 B', '10 kB'));
    await project.build();
    expect((await project.run(['report', '--limit', 'js=1kB'])).code).toBe(0);
    expect((await project.diagnose(['report', '--limit', 'site/**=20 B', '--limit', 'js=1kB'])).said).toEqual([
      'loyal-anvil: error [limit-exceeded]',
    ]);
    expect((await project.run(['report', '--limit', 'js'])).code).toBe(2);
  });

  it('replaces no file that is no report', async () => {
    const project = TestProject.documented('report.md');
    await project.build();
    project.write('mine.html', 'mine');
    expect((await project.diagnose(['report', '--out', 'mine.html'])).said).toEqual([
      'loyal-anvil: error [output-unwritable]',
    ]);
    expect(project.read('mine.html')).toBe('mine');
    expect((await project.run(['report', '--out', 'sizes/report.html'])).code).toBe(0);
    expect((await project.run(['report', '--out', 'sizes/report.html'])).code).toBe(0);
  });

  it('is one page that loads nothing, in light and dark, with all numbers in tables', async () => {
    const project = new TestProject({ ...files, 'pages/<b>&.png': 'x' });
    await project.build();
    await project.run(['report']);
    const browser = await openBrowser();
    const page = await browser.newPage({ colorScheme: 'dark' });
    const requests: string[] = [];
    page.on('request', (request) => requests.push(request.url()));
    await page.goto(pathToFileURL(project.path('.anvil-cache/report.html')).href);
    expect(requests).toHaveLength(1);
    expect(await page.locator('b').count()).toBe(0);
    const shown = (): Promise<string[]> =>
      page.locator('svg.treemap:visible').evaluateAll((all) => all.map((one) => one.getAttribute('aria-label') ?? ''));
    expect(await shown()).toEqual([expect.stringMatching(/^9 outputs, .* gzip;/)]);
    // By keyboard.
    await page.locator('#as-gzip').focus();
    await page.keyboard.press('ArrowRight');
    expect(await shown()).toEqual([expect.stringMatching(/^9 outputs, .* Brotli;/)]);
    expect(await page.locator('#outputs tbody tr').count()).toBe(9);
    expect(await page.locator('#build svg.timeline rect').count()).toBe(4);
    const colours = await page.evaluate(() => [
      getComputedStyle(document.body).backgroundColor,
      document.scrollingElement!.scrollWidth,
    ]);
    expect(colours).toEqual(['rgb(29, 26, 24)', 1280]);
    await browser.close();
  });
});
