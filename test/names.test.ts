import { createHash } from 'node:crypto';
import { posix } from 'node:path';
import { originalPositionFor, TraceMap } from '@jridgewell/trace-mapping';
import type { ConsoleMessage, Page, Response } from 'playwright-core';
import { describe, expect, it } from 'vitest';
import { openBrowser, serveFolder } from './support/browser.js';
import { checkReleaseKills } from './support/kills.js';
import { danglingNames, RandomRelease } from './support/random-release.js';
import { TestProject } from './support/project.js';

const projectFile = (profile: string, steps = '[minify]', end = 'serve: { folder: site }'): string => `profiles:
  production: { ${profile} }
pipelines:
  styles: { from: src/**/*.css, to: site, steps: ${steps} }
  scripts: { from: src/**/*.js, to: site, steps: ${steps} }
  others: { from: "src/**/*.{png,svg,html,webmanifest}", to: site }
${end}
`;

const write = (project: TestProject, release: RandomRelease): void => {
  for (const [path, content] of release.files) project.write(`src/${path}`, content);
};

/** The contents of all published files, by path. */
const contentsOf = (project: TestProject): Record<string, string> =>
  Object.fromEntries(
    project.files('site').map((path) => [path, createHash('sha256').update(project.bytes(path)).digest('hex')]),
  );

/** Settings of the profile, and steps. */
const variants: readonly [profile: string, steps: string, end?: string][] = [
  ['names: hashed, maps: file, integrity: true', '[minify]'],
  ['names: hashed', '[]'],
  // Without a server, the site is the folder of all outputs.
  ['names: hashed', '[minify]', ''],
  ['names: hashed, inline: 150 B, maps: inline', '[minify]'],
];

/** A text with names as they were before they got a hash. */
const plainNames = (text: string): string => text.replace(/-[0-9a-f]{10}(?=\.)/g, '');

const digestOf = (text: string): string => createHash('sha256').update(text).digest('hex');

/**
 * A page as a browser shows it, without hashes: requests with their types and statuses, styles, and messages of errors.
 * Texts that are written in place of references are not requested.
 */
async function shown(page: Page, url: string): Promise<Record<'requests' | 'styles' | 'failed', string>> {
  const requests: string[] = [];
  const noteResponse = async (response: Response): Promise<void> => {
    const type = response.request().resourceType();
    const isData = response.url().startsWith('data:');
    const isPicture = /^http.*\.png(?:[?#]|$)/.test(response.url());
    const bytes = isPicture ? await response.body() : undefined;
    // The browser has it in memory, from a request that was noted.
    if (bytes?.length === 0 && response.ok()) return;
    const body = bytes ? digestOf(plain(bytes.toString('latin1'))) : '';
    if (!isData)
      requests.push(
        `${type} ${plain(decodeURIComponent(new URL(response.url()).pathname))} ${String(response.status())} ${body}`,
      );
  };
  const noted: Promise<void>[] = [];
  const listen = (response: Response): void => void noted.push(noteResponse(response));
  const failed: string[] = [];
  const noteError = (message: ConsoleMessage): void => void (message.type() === 'error' && failed.push(message.text()));
  page.on('response', listen).on('console', noteError);
  await page.goto(url, { waitUntil: 'networkidle' });
  page.off('response', listen).off('console', noteError);
  await Promise.all(noted);
  const styles: string[] = [];
  for (const frame of page.frames())
    styles.push(
      ...(await frame.evaluate(() =>
        [...document.body.querySelectorAll('*')].map((element) => {
          const { order, backgroundImage } = getComputedStyle(element);
          return `${element.tagName} ${order} ${backgroundImage}`;
        }),
      )),
    );
  return {
    requests: [...new Set(requests)].sort().join('\n'),
    styles: plain(styles.join('\n')),
    failed: plain(failed.sort().join()),
  };
}

const plain = (text: string): string =>
  // Escapes that URLs need not have may be written in another way.
  text
    .replace(/(%[\dA-F]{2})+/g, decodeURIComponent)
    .replace(/(q\d+q)-[0-9a-f]{10}(?=\.)/g, '$1')
    .replace(/127\.0\.0\.1:\d+/g, '');

describe('names by content', () => {
  it.each(Array.from({ length: 6 }, (_, at) => at + 1))(
    'lead everywhere, and are those of a fresh build after any changes (%i)',
    async (seed) => {
      const release = new RandomRelease(seed);
      const project = new TestProject({
        'anvil.yaml': projectFile(...variants[seed % 4]!),
      });
      for (let change = 0; change < 4; change++) {
        write(project, release);
        const { stderr } = await project.build();
        expect(danglingNames(project.path('site')), stderr).toEqual([]);
        release.change();
      }
      write(project, release);
      await project.build();
      const fresh = new TestProject({ 'anvil.yaml': project.read('anvil.yaml') });
      write(fresh, release);
      await fresh.build();
      expect(contentsOf(project)).toEqual(contentsOf(fresh));
    },
  );

  it('show the same pages in a browser as plain names, without a failing request', { timeout: 3_600_000 }, async () => {
    const browser = await openBrowser();
    const page = await browser.newPage();
    const firstSeed = Number(process.env['SEED'] ?? Math.floor(Math.random() * 1e6));
    // eslint-disable-next-line no-console -- a failure can be repeated with it
    console.log(`sites from SEED=${String(firstSeed)}`);
    try {
      for (let seed = firstSeed; seed < firstSeed + Number(process.env['SITES'] ?? 3); seed++) {
        const release = new RandomRelease(seed);
        const looks: Awaited<ReturnType<typeof shown>>[][] = [];
        for (const profile of ['names: plain', 'names: hashed, integrity: true', 'names: hashed, inline: 300 B']) {
          const project = new TestProject({ 'anvil.yaml': projectFile(profile) });
          write(project, release);
          await project.build();
          const server = await serveFolder(project.path('site'));
          const pages: Awaited<ReturnType<typeof shown>>[] = [];
          for (const path of release.pages)
            pages.push(await shown(page, server.url + path.split('/').map(encodeURIComponent).join('/')));
          server.close();
          looks.push(pages);
        }
        const [plainLook, hashed, inlined] = looks;
        expect(hashed, `seed ${String(seed)}`).toEqual(plainLook);
        expect(JSON.stringify(hashed)).not.toMatch(/ [45]\d\d /);
        // Pictures are written in sheets, and files that are written into others are not requested.
        const written = (styles: string): string => styles.replace(/url\("[^"]*"\)/g, 'url()');
        inlined!.forEach((one, at) => {
          expect(written(one.styles), `seed ${String(seed)}`).toBe(written(plainLook![at]!.styles));
          expect(one.requests, `seed ${String(seed)}`).not.toMatch(/ [45]\d\d /);
        });
      }
    } finally {
      await browser.close();
    }
  });

  it('change only for what refers to a changed file', async () => {
    const project = TestProject.demo();
    await project.build();
    const before = new Set(project.files('site'));
    const pages = contentsOf(project);
    project.write('pictures/refractor.png', project.bytes('pictures/dome.png'));
    await project.build();
    const added = project.files('site').filter((path) => !before.has(path));
    const removed = [...before].filter((path) => !project.exists(path));
    expect([...added, ...removed].map((path) => path.replace(/-[0-9a-f]{10}/, ''))).toEqual([
      ...['site/pictures/refractor.png', 'site/pictures/refractor.webp'],
      ...['site/pictures/refractor.png', 'site/pictures/refractor.webp'],
    ]);
    const changed = Object.entries(contentsOf(project)).filter(
      ([path, hash]) => pages[path] !== hash && before.has(path),
    );
    expect(changed.map(([path]) => path)).toEqual([
      'site/names.json',
      'site/telescopes/index.html',
      'site/telescopes/index.html.br',
      'site/telescopes/index.html.gz',
    ]);
    // The name is the hash of the content, and the manifest has both.
    const names = JSON.parse(project.read('site/names.json')) as Record<string, { path: string; integrity: string }>;
    const { path, integrity } = names['pictures/refractor.png']!;
    const hash = createHash('sha256').update(project.bytes(`site/${path}`));
    expect(path).toContain(`-${hash.copy().digest('hex').slice(0, 10)}.png`);
    expect(integrity).toBe(`sha256-${hash.digest('base64')}`);
  });

  it('leave source maps exact, in files of their own and inline', async () => {
    const rule = (at: number): string => `.mark${String(at)} { background: url("dome.png"); order: ${String(at)} }\n`;
    for (const maps of ['file', 'inline']) {
      const project = new TestProject({
        'anvil.yaml': projectFile(`names: hashed, maps: ${maps}`),
        'src/a.css': Array.from({ length: 9 }, (_, at) => rule(at)).join(''),
        'src/b.js': `import('./c.js');\nimport('./c.js').then(function found() {});\nglobalThis.mark7 = 7;\n`,
        'src/c.js': 'export {};\n',
        'src/dome.png': 'png',
      });
      await project.build();
      let marks = 0;
      for (const path of project.files('site').filter((one) => /\.(css|js)$/.test(one))) {
        const text = project.read(path);
        const [, url = ''] = /sourceMappingURL=(\S+)/.exec(text)!;
        const json = url.startsWith('data:')
          ? Buffer.from(url.replace(/^[^,]*,/, ''), 'base64').toString('utf8')
          : project.read(`site/${url}`);
        const map = new TraceMap(json);
        if (maps === 'file') expect(map.file).toBe(path.slice('site/'.length));
        const code = text.split('\n').findIndex((line) => line.includes('sourceMappingURL')) - 1;
        const line = text.split('\n')[code]!;
        for (const { index, 0: mark } of line.matchAll(/mark\d/g)) {
          const { source, line: at, column } = originalPositionFor(map, { line: code + 1, column: index });
          const original = project.read(posix.join('site', source!)).split('\n')[at! - 1]!;
          // The segment may begin with the dot of the selector, or with the object of the property.
          expect(original.slice(column!), mark).toMatch(new RegExp(`^(\\.|globalThis\\.)?${mark}`));
          marks++;
        }
      }
      expect(marks).toBe(10);
    }
  });

  it('come with hashes of what browsers check only', async () => {
    const links = [
      '<link rel="preload" as="image" href="a.svg">',
      '<link rel="preload" as="font" href="a.svg">',
      '<link rel="preload" as="style" href="a.css">',
      '<link rel="stylesheet" href="a.css">',
      '<link rel="icon" href="a.svg">',
    ];
    const project = new TestProject({
      'anvil.yaml':
        'profiles: { production: { names: hashed, integrity: true } }\npipelines: { site: { from: a.*, to: site } }\n',
      'a.html': links.join('\n'),
      'a.css': 'a { b: c }',
      'a.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
    });
    await project.build();
    const lines = project.read('site/a.html').trim().split('\n');
    expect(lines.map((line) => line.includes('integrity='))).toEqual([false, false, true, true, false]);
  });

  it('are those of the last build for outputs of a pipeline that fails, whose files stay', async () => {
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { names: hashed } }
pipelines:
  styles: { from: a.scss, to: site, steps: [compile] }
  pages: { from: "*.html", to: site }
`,
      'a.scss': 'a { order: ; }\n',
      'index.html': '<link rel="stylesheet" href="a.css">\n',
    });
    const states = async (): Promise<unknown> =>
      (await project.events(['build']))
        .filter(({ event }) => event === 'pipeline-done')
        .map(({ name, state, blockedBy }) => [name, state, blockedBy]);
    // There is no name to refer to.
    expect(await project.diagnose(['build', 'pages'])).toMatchObject({
      code: 1,
      said: ['index.html:1:30: error [name-unknown]'],
    });
    project.write('a.scss', 'a { order: 1\n');
    expect(await states()).toEqual([
      ['styles', 'failed', undefined],
      ['pages', 'blocked', 'styles'],
    ]);
    expect(project.exists('site')).toBe(false);
    project.write('a.scss', 'a { order: 1 }\n');
    await project.build();
    const [sheet, page] = project.files('site');
    project.write('a.scss', 'a { order: 2\n');
    project.write('index.html', '<link rel="stylesheet" href="a.css">\n<p>new</p>\n');
    expect(await states()).toEqual([
      ['styles', 'failed', undefined],
      ['pages', 'built', undefined],
    ]);
    expect(project.read(page!)).toBe(`<link rel="stylesheet" href="${sheet!.slice('site/'.length)}">\n<p>new</p>\n`);
    project.write('a.scss', 'a { order: 2 }\n');
    await project.build();
    expect(project.exists(sheet!)).toBe(false);
    // Pages that are not built refer to the last names.
    project.write('a.scss', 'a { order: 3 }\n');
    await project.build('styles');
    const sheets = project.files('site').filter((path) => path.endsWith('.css'));
    expect([sheets.length, sheets.some((path) => project.read(page!).includes(path.slice('site/'.length)))]).toEqual([
      2,
      true,
    ]);
    await project.build('pages');
    expect(project.files('site').filter((path) => path.endsWith('.css'))).toHaveLength(2);
    await project.build();
    expect(project.files('site').filter((path) => path.endsWith('.css'))).toHaveLength(1);
  });

  it('are also written plain where another pipeline reads them, which runs once', async () => {
    const project = TestProject.demo();
    await project.build();
    const joined = project.files('site/css').find((path) => path.includes('kiosk-') && path.endsWith('.css'))!;
    const plain = project.read('site/css/chart.css');
    expect(project.files('site/css').filter((path) => /chart.*\.css$/.test(path))).toHaveLength(2);
    // Rewritten references in the published file are none in the one that is read.
    const { stdout } = await project.build();
    expect(stdout).toContain('all unchanged; 0 jobs run');
    project.write('styles/chart.scss', `${project.read('styles/chart.scss')}\n.chart { order: 7 }\n`);
    await project.build();
    expect(project.read('site/css/chart.css')).not.toBe(plain);
    expect(project.exists(joined)).toBe(false);
  });

  it('are forecast as far as they are known, and explained by both names', async () => {
    const project = TestProject.demo();
    await project.build();
    project.write('pictures/dome.png', project.bytes('pictures/refractor.png'));
    const { stdout } = await project.run(['build', '--dry-run']);
    expect(stdout).toMatch(/^pages .*\n +may write +site\/index\.html \(\.br, \.gz\)$/m);
    expect(stdout).toMatch(
      /^pictures .*\n.*\n +may write +site\/pictures\/dome-\*\.png, site\/pictures\/dome-320w-\*\.png, /m,
    );
    expect(stdout).not.toMatch(/^ +remove/m);
    expect(stdout).toMatch(/^ +may remove +site\/pictures\/dome-[\da-f]{10}\.png, /m);
    await project.build();
    const [published] = project.files('site/pictures').filter((path) => path.includes('dome'));
    const [byName, byPath] = [
      await project.run(['why', published!]),
      await project.run(['why', 'site/pictures/dome.png']),
    ];
    expect(byName.stdout).toContain(`published as    ${published!}`);
    expect(byName.stdout).toBe(byPath.stdout);
    expect(byName.stdout).toMatch(/referred to by +site\/index\.html/);
  });

  it('are not given to files that are found by their address, and texts that name others are reported', async () => {
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { names: hashed, plainNames: [site/downloads/**, "!**/plan.png"] } }
pipelines:
  one: { from: [src/**/*, src/.well-known/*], base: src, to: site }
  two: { from: plans/*, to: site/plans, names: plain }
serve: { folder: site }
`,
      'plans/dome.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
      'src/index.html': `<!doctype html><link rel="manifest" href="app.json"><img data-src="dome.png" src="dome.png">
<meta property="og:image" content="https://fernlight.example/dome.png"><a href="downloads/map.png">map</a>
<script>navigator.serviceWorker.register('/offline.js'); fetch('data/stars.json'); fetch('none.json')</script>
<link rel="alternate" type="application/rss+xml" href="feed.json"><link rel="alternate" href="print.json">
<script type="importmap">{ "imports": { "./old.js": "./new.js", "lib/": "./lib/" } }</script>
`,
      'src/app.json': '{ "icons": [{ "src": "dome.png" }] }\n',
      'src/offline.js': "addEventListener('fetch', () => undefined);\n",
      'src/data/stars.json': '{ "dome.png": ["../dome.png", "a dome.png"] }\n',
      'src/dome.png': 'png',
      'src/downloads/map.png': 'map',
      'src/downloads/plan.png': 'plan',
      'src/robots.txt': 'User-agent: *\n',
      'src/.well-known/security.txt': 'Contact: x\n',
      'src/humans': 'x\n',
      'src/feed.json': '{}',
      'src/print.json': '{}',
      'src/old.js': 'let old;\n',
      'src/new.js': 'let newer;\n',
      'src/lib/part.js': 'let part;\n',
    });
    project.write('src/unreadable.css', Buffer.from([...Buffer.from('a { background: url(dome.png) } /* '), 0xff]));
    const { code, said } = await project.diagnose();
    expect([code, said.sort()]).toEqual([
      0,
      [
        'src/app.json:1:22: warning [text-not-renamed]',
        'src/data/stars.json:1:16: warning [text-not-renamed]',
        'src/index.html:1:68: warning [text-not-renamed]',
        'src/index.html:2:36: warning [text-not-renamed]',
        'src/index.html:3:64: warning [text-not-renamed]',
        'src/unreadable.css: warning [references-unknown]',
      ],
    ]);
    expect(project.files('site').map((path) => path.replace(/-[0-9a-f]{10}/, '-HASH'))).toEqual([
      'site/.well-known/security.txt',
      'site/app.json',
      'site/data/stars-HASH.json',
      'site/dome-HASH.png',
      'site/downloads/map.png',
      'site/downloads/plan-HASH.png',
      'site/feed.json',
      'site/humans',
      'site/index.html',
      'site/lib/part.js',
      'site/names.json',
      'site/new-HASH.js',
      'site/offline.js',
      'site/old.js',
      'site/plans/dome.svg',
      'site/print-HASH.json',
      'site/robots.txt',
      'site/unreadable-HASH.css',
    ]);
  });

  it('are changed in pages with a base, import maps and modules included', async () => {
    const page = `<!doctype html><base href="css/"><link rel=stylesheet href=a.css><link rel=stylesheet href="/css/a.css">
<script type=importmap>{"imports":{"lib":"./lib.js"}}</script><script type=module>import "lib"; import("./lib.js")</script>
`;
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { names: hashed } }\npipelines: { one: { from: src/**/*, to: site } }\n`,
      'src/index.html': page,
      'src/css/a.css': 'a { }\n',
      'src/css/lib.js': 'export {};\n',
    });
    expect(await project.diagnose()).toMatchObject({ code: 0, said: [] });
    expect(plainNames(project.read('site/index.html'))).toBe(page);
    expect(project.read('site/index.html').match(/-[0-9a-f]{10}\./g)).toHaveLength(4);
  });

  it('are not needed for small files, or those that a page asks for, which are written in place of references', async () => {
    const picture = '<svg xmlns="http://www.w3.org/2000/svg" width="7" height="7"/>';
    const project = new TestProject({
      'anvil.yaml': projectFile('names: hashed, inline: 400 B, maps: file', '[]'),
      'src/sub/index.html': `<!doctype html><link rel="stylesheet" href="../css/a.css" media="all" id="a">
<link rel="stylesheet" href="../css/large.css"><link rel="stylesheet" href="../css/asked.css" data-inline>
<script src="../small.js"></script><script src="../small.js" defer></script><script type="module" src="../uses.js"></script>
<img src="../css/dot.svg"><img src="../css/dot.svg#part"><p class="a">x</p><b class="b">x</b>
`,
      'src/css/a.css': '@import "deep/b.css";\n.a { background: url(dot.svg); order: 3 }\n',
      'src/css/deep/b.css': '.b { order: 4; background: url("../large.png") }\n',
      'src/css/large.css': `.a { color: red }\n/* ${'x'.repeat(500)} */\n`,
      'src/css/asked.css': `.b { color: red; cursor: url('../css/large.png?v=1'), auto }\n/* ${'y'.repeat(500)} */\n`,
      'src/css/dot.svg': picture,
      'src/css/large.png': 'p'.repeat(500),
      'src/small.js': 'window.small = "</p>".length;\n',
      'src/uses.js': "import './small.js';\n",
    });
    await project.build();
    const names = JSON.parse(project.read('site/names.json')) as Record<string, { path: string }>;
    const [b, large, png, uses, small] = [
      'css/deep/b.css',
      'css/large.css',
      'css/large.png',
      'uses.js',
      'small.js',
    ].map((path) => names[path]!.path);
    const data = `data:image/svg+xml;base64,${Buffer.from(picture).toString('base64')}`;
    expect(project.read('site/sub/index.html')).toBe(
      `<!doctype html><style media="all" id="a">@import "../${b!}";
.a { background: url(../${names['css/dot.svg']!.path}); order: 3 }</style>
<link rel="stylesheet" href="../${large!}"><style>.b { color: red; cursor: url("../${png!}?v=1"), auto }
/* ${'y'.repeat(500)} */</style>
<script>window.small = "</p>".length;</script><script src="../${small!}" defer></script><script type="module" src="../${uses!}"></script>
<img src="${data}"><img src="../${names['css/dot.svg']!.path}#part"><p class="a">x</p><b class="b">x</b>
`,
    );
    expect(project.read(`site/${names['css/a.css']!.path}`)).toContain(`url(${data})`);
    // A change of what is inlined changes what contains it.
    project.write('src/css/dot.svg', picture.replace('7', '8'));
    await project.build();
    const after = JSON.parse(project.read('site/names.json')) as Record<string, { path: string }>;
    expect(after['css/a.css']!.path).not.toBe(names['css/a.css']!.path);
    expect(after['css/deep/b.css']!.path).toBe(b);
    expect(project.read('site/sub/index.html')).not.toContain(data);
  });

  it('stay where the content would mean something else in a page, or is not allowed in it', async () => {
    const page = (head: string, rest: string): string => `<!doctype html><meta charset="utf-8">${head}\n${rest}\n`;
    const sheet = '<link rel="stylesheet" href="/css/a.css" data-inline>';
    const pages = {
      'src/base.html': page('<base href="css/">', sheet),
      'src/policy.html': page('<meta http-equiv="content-security-policy" content="style-src \'self\'">', sheet),
      'src/title.html': page('', '<link rel="stylesheet" href="css/a.css" title="Dark" data-inline>'),
      'src/late.html': page('', '<script src="late.js" defer data-inline></script>'),
      'src/own.html': page('', '<script src="own.js" data-inline></script>'),
      'src/twice.html': page('', '<script type="module" src="late.js" data-inline></script>'),
    };
    const project = new TestProject({
      'anvil.yaml': projectFile('names: hashed', '[]'),
      ...pages,
      'src/css/a.css': 'a { order: 1 }\n',
      'src/late.js': 'window.late = 1;\n',
      'src/own.js': 'window.own = document.currentScript.src;\n',
    });
    const { code, said } = await project.diagnose();
    expect([code, said.map((one) => one.replace(/:\d+:\d+/, '')).sort()]).toEqual([
      0,
      Object.keys(pages)
        .sort()
        .map((path) => `${path}: warning [inline-refused]`),
    ]);
    for (const [path, text] of Object.entries(pages))
      expect(plainNames(project.read(path.replace('src', 'site')))).toBe(text);
  });

  it('are not published beside another file of the name of the manifest', async () => {
    const project = new TestProject({
      'anvil.yaml': 'profiles: { production: { names: hashed } }\npipelines: { one: { from: src/*, to: site } }\n',
      'src/names.json': '{}\n',
      'src/a.css': 'a { }\n',
    });
    expect(await project.diagnose()).toMatchObject({
      code: 1,
      said: ['site/names.json: error [output-conflict]'],
    });
    expect(project.exists('site')).toBe(false);
  });

  it('outlive as many builds as asked for', async () => {
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { names: hashed, keep: 2 } }
pipelines:
  styles: { from: a.css, to: site }
  scripts: { from: b.js, to: site }
  pages: { from: "*.html", to: site }
`,
      'a.css': 'a { order: 1 }\n',
      'b.js': 'let order = 1;\n',
      'index.html': '<link rel="stylesheet" href="a.css"><script src="b.js"></script>\n',
    });
    const sheets = (): string[] => project.files('site').filter((path) => path.endsWith('.css'));
    for (const number of [2, 3, 4, 5]) {
      await project.build();
      project.write('a.css', `a { order: ${String(number)} }\n`);
      project.write('b.js', `let order = ${String(number)};\n`);
    }
    const three = sheets();
    expect(three).toHaveLength(3);
    // A build without changes counts for nothing.
    await project.run(['build', '--dry-run']);
    project.write('a.css', 'a { order: 4 }\n');
    project.write('b.js', 'let order = 4;\n');
    await project.build();
    expect(sheets()).toEqual(three);
  });

  it('lead to existing files at any moment, also after kills while they are published', async () => {
    expect(await checkReleaseKills(8)).toBeUndefined();
  });
});
