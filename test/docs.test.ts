import { execFileSync, spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { connect, createServer, type AddressInfo } from 'node:net';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, symlinkSync } from 'node:fs';
import { runInNewContext } from 'node:vm';
import { diagnosticHelp } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { fileBlocks, TestProject } from './support/project.js';
import { Serve } from './support/serve.js';
import { statementsOf } from './support/statements.js';

const clone = new URL('../', import.meta.url).pathname;
const read = (path: string): string => readFileSync(clone + path, 'utf8');

const nginx = '/usr/sbin/nginx';

/** The release of the documentation. */
const release = (): TestProject => TestProject.documented('release.md');

const largeSheet = Array.from({ length: 99 }, (_, at) => `.star${String(at)} { order: ${String(at)} }\n`).join('');

/** Checks that only names with a hash may be cached, and that compressed files are sent. */
async function checkHeaders(project: TestProject, port: number, encoding: string): Promise<void> {
  const sheet = project.files('site/css').find((path) => path.endsWith('.css'))!;
  const ask = async (path: string): Promise<(string | null)[]> => {
    const { status, headers } = await fetch(`http://127.0.0.1:${String(port)}/${path}`, {
      headers: { 'accept-encoding': encoding },
    });
    const wanted = ['cache-control', 'content-encoding', 'content-type'].map((name) => headers.get(name));
    return [String(status), ...wanted.map((value) => value?.replace(/;.*/, '') ?? null)];
  };
  const lasting = 'public, max-age=31536000, immutable';
  expect(await ask(sheet.slice('site/'.length))).toEqual(['200', lasting, encoding, 'text/css']);
  expect(await ask('')).toEqual(['200', 'no-cache', null, 'text/html']);
  expect((await ask('css/site.css'))[0]).toBe('404');
}

async function freePort(): Promise<number> {
  const server = createServer().listen(0, '127.0.0.1');
  await once(server, 'listening');
  const { port } = server.address() as AddressInfo;
  server.close();
  await once(server, 'close');
  return port;
}

/** The first line of the answer to a request, whose URL is sent as it is. */
async function statusOf(port: number, path: string, method = 'GET'): Promise<string> {
  const socket = connect(port, '127.0.0.1').setEncoding('latin1');
  socket.write(`${method} ${path} HTTP/1.1\r\nhost: localhost\r\nconnection: close\r\n\r\n`);
  let text = '';
  for await (const piece of socket) text += String(piece);
  return text.split('\r\n')[0]!;
}

async function untilListening(port: number): Promise<void> {
  for (let isListening = false; !isListening;) {
    const socket = connect(port, '127.0.0.1');
    isListening = await new Promise((done) => socket.on('connect', () => done(true)).on('error', () => done(false)));
    socket.destroy();
  }
}

describe('the documentation', () => {
  it('names only keys, steps, commands and values that exist in the texts of diagnostics', async () => {
    const project = new TestProject();
    const { stdout: schema } = await project.run(['schema']);
    const { stdout: help } = await project.run(['--help']);
    const known = new Set([
      ...[...schema.matchAll(/"([A-Za-z][\w-]*)"/g)].map(([, name]) => name!),
      ...(help.match(/[a-z][\w-]+/g) ?? []),
      ...Object.keys(diagnosticHelp),
    ]);
    // Of languages, open formats and front matter.
    const foreign =
      /^(acorn|arguments|await|bytes|class|code|const|eval|exports?|extends|false|fetch|if|imports?|js|json|layout|less|let|new|npm|paths|pre|require|styles?|super|true)$/;
    const hints = read('docs/diagnostics.md').match(/^ *→ (?!.*(?:Did you mean|are `)).*$/gm)!;
    const texts = [...Object.values(diagnosticHelp), ...hints].join('\n');
    const unknown = [...texts.matchAll(/`([a-z][A-Za-z]*):?`/g)].flatMap(([, name]) =>
      // Of the files of examples.
      known.has(name!) || foreign.test(name!) || /^(age|dome|two)$/.test(name!) ? [] : [name],
    );
    expect(unknown).toEqual([]);
  });

  it('has a first project in the README that builds as described', async () => {
    const readme = read('README.md');
    const project = new TestProject(Object.fromEntries(fileBlocks(readme).map(({ file, text }) => [file, text])));
    const commands = [...readme.matchAll(/^npx loyal-anvil (.+)$/gm)].map(([, args = '']) => args.split(' '));
    expect(commands.map(([name]) => name)).toEqual(['list', 'build', 'build', 'serve', 'why', 'why']);
    for (const args of commands) {
      if (args[0] === 'serve') {
        const serve = await Serve.open(project);
        expect(await serve.page('/')).toContain('<title>Tonight</title>');
        expect(await serve.end()).toBe(130);
      } else expect(await project.run(args), args.join(' ')).toMatchObject({ code: 0, stderr: '' });
    }
    await project.build();
    expect(project.files('site')).toEqual(['site/css/site.css', 'site/index.html', 'site/js/main.js']);
    expect(project.read('site/css/site.css')).toBe('body{color:#234;-webkit-user-select:none;user-select:none}');
    expect(project.read('site/js/main.js')).toBe('document.body.append("Good evening, stargazer.")');
  });

  it('has valid project files', async () => {
    const blocks = [...fileBlocks(read('docs/pipelines.md')), ...fileBlocks(read('docs/serving.md'))];
    expect(blocks.length).toBeGreaterThan(1);
    for (const { file, text } of blocks) {
      const project = new TestProject({
        [file]: text,
        'pages/index.html': '',
        'styles/site.scss': '',
        'scripts/page.ts': '',
        'scripts/lib/a.ts': '',
        'scripts/lib/b.draft.ts': '',
      });
      expect(await project.run(['build']), text).toMatchObject({ code: 0, stderr: '' });
      expect(project.files('site').length).toBeGreaterThan(0);
    }
  });

  it('has linking examples that build in both profiles, and the first one runs', async () => {
    const blocks = fileBlocks(read('docs/link.md'));
    const starts = blocks.flatMap(({ file }, at) => (file === 'anvil.yaml' ? [at] : []));
    expect(starts).toHaveLength(4);
    const projects = starts.map(
      (start, at) =>
        new TestProject(Object.fromEntries(blocks.slice(start, starts[at + 1]).map(({ file, text }) => [file, text]))),
    );
    for (const profile of ['production', 'development'])
      for (const project of projects)
        expect(await project.run(['build', '--profile', profile])).toMatchObject({ code: 0, stderr: '' });
    const script = projects[0]!.read('site/js/main.js');
    const output = execFileSync(process.execPath, ['--input-type=module', '--eval', script], { encoding: 'utf8' });
    expect(output).toBe('Moss\n');
    expect(projects[1]!.files('site/js')).toContain('site/js/shared/greet.js');
  });

  it('has functions that are called as described', async () => {
    const project = TestProject.documented('functions.md');
    mkdirSync(project.path('node_modules'));
    symlinkSync(clone, project.path('node_modules/loyal-anvil'));
    expect((await project.build()).stderr).toBe('');
    expect(project.read('site/index.html')).toMatch(/tonight\.<\/p>\n<footer>The night team, 2026<\/footer>\n$/);
    expect(project.read('site/sitemap.txt')).toBe('https://fernlight.example/index.html\n');
  });

  it('has classes and objects that do the same in older browsers', async () => {
    const project = TestProject.documented('older-browsers.md');
    expect((await project.build()).stderr).toBe('');
    const said: unknown[] = [];
    const console = { log: (...values: unknown[]) => said.push(...values) };
    runInNewContext(project.read('site/main.js'), { console });
    expect(said.slice(0, 2)).toEqual(['moon', 29]);
    expect(Object.getPrototypeOf(said[2])).toBe(null);
    expect(project.read('site/main.js')).not.toMatch(/static|\.\.\./);
  });

  it('has commands that run as described', async () => {
    const project = TestProject.documented('commands.md');
    expect((await project.build()).stdout).toMatch(/tests +command +done +1 run/);
    expect(project.read('site/index.html')).toMatch(/tonight\.<\/p>\n<!-- production -->\n$/);
    expect(project.read('site/pages.json')).toBe('["index.html"]\n');
    project.write('tools/stars.mjs', 'export const brightest = (stars) => stars[0];\n');
    const { code, stderr } = await project.run(['build']);
    expect([code, stderr]).toEqual([1, expect.stringContaining('`node --test tools/stars.test.mjs` ended with 1.')]);
  });

  it('has a working day that is served and explained as described', async () => {
    const project = TestProject.documented('working-day.md');
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect((await project.run(['list'])).stdout).toContain('styles: The sheet of all pages');
    expect((await project.run(['why', 'styles/_theme.scss'])).stdout).toContain('site/css/site.css');
    const serve = await Serve.open(project, ['--sizes']);
    expect(await serve.page('/')).toContain('<title>Fernlight Observatory</title>');
    expect(await serve.end()).toBe(130);
  });

  it('has an existing site for which init proposes what is shown', async () => {
    const project = TestProject.documented('existing-site.md');
    const expected = project.read('expected.yaml');
    rmSync(project.path('expected.yaml'));
    expect(await project.run(['init'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('anvil.yaml')).toBe(expected);
    expect(await project.run(['build'])).toMatchObject({ code: 0, stderr: '' });
    expect(project.read('site/assets/app.js')).toContain('waxing');
  });

  it('has a project file that does what a shell script did', async () => {
    const project = TestProject.documented('shell-scripts.md');
    expect(await project.run(['build'], { env: { SITE_VERSION: '2026' } })).toMatchObject({ code: 0 });
    expect(project.read('site/css/site.css')).toBe('body{color:#0d1524}');
    expect(project.read('site/index.html')).toContain('Observatory, 2026');
    expect(project.files('site')).toHaveLength(4);
    expect((await project.run(['build'], { env: { SITE_VERSION: '2026' } })).stdout).toContain('0 jobs run');
  });

  it('has an index that leads to every page', () => {
    const index = read('docs/README.md');
    for (const page of readdirSync(`${clone}docs`).filter((name) => name.endsWith('.md') && name !== 'README.md'))
      expect(index, page).toContain(`(${page})`);
  });

  it('has checks that find what is described', async () => {
    const project = TestProject.documented('checks.md');
    const { said, code } = await project.diagnose();
    expect([code, said]).toEqual([0, ['scripts/main.ts:1:7: warning [names/names]']]);
    project.write('scripts/more.ts', "export const hour: number = 'late';\n");
    expect((await project.diagnose()).said).toContain('scripts/more.ts:1:14: error [types/TS2322]');
  });

  it('has a release whose pages refer to files that exist, by the names that it describes', async () => {
    const project = release();
    await project.build();
    expect(project.files('site').map((path) => path.replace(/-[0-9a-f]{10}/, '-HASH'))).toEqual([
      'site/css/site-HASH.css',
      'site/index.html',
      'site/js/main-HASH.js',
      'site/names.json',
      'site/pictures/dome-HASH.svg',
    ]);
    const names = JSON.parse(project.read('site/names.json')) as Record<string, { path: string; integrity: string }>;
    const { path, integrity } = names['css/site.css']!;
    expect(project.read('site/index.html')).toContain(`<link rel=stylesheet href=${path} integrity="${integrity}">`);
  });

  it('has a server for a release with the cache headers that it describes', async () => {
    const project = release();
    project.write('styles/site.scss', largeSheet);
    await project.build();
    const server = spawn(process.execPath, ['server.mjs', 'site', '0'], { cwd: project.root });
    try {
      const [port] = (await once(server.stdout, 'data')) as [Buffer];
      await checkHeaders(project, Number(port.toString()), 'br');
      for (const path of [
        '/%',
        '/%00',
        '//',
        '/../server.mjs',
        '/..%2fserver.mjs',
        '/%2e%2e/server.mjs',
        '/css',
        'x',
        '*',
      ])
        expect(await statusOf(Number(port.toString()), path), path).toMatch(/^HTTP\/1\.1 40[04] /);
      expect(await statusOf(Number(port.toString()), '/', 'HEAD')).toMatch(/ 200 /);
      expect(await statusOf(Number(port.toString()), '/', 'POST')).toMatch(/ 405 /);
    } finally {
      server.kill();
    }
  });

  it.runIf(existsSync(nginx))('has settings for nginx with the same headers', async () => {
    const project = release();
    project.write('styles/site.scss', largeSheet);
    await project.build();
    project.openToAll();
    const port = await freePort();
    const settings = project
      .read('nginx.conf')
      .replace('8080', `127.0.0.1:${String(port)}`)
      .replace('/srv/fernlight', project.root);
    const user = process.getuid?.() === 0 ? 'user root;' : '';
    const types = 'types { text/html html; text/css css; application/javascript js; }';
    project.write('all.conf', `${user} pid nginx.pid; events {} http { access_log off; ${types} ${settings} }\n`);
    const server = spawn(nginx, ['-p', project.root, '-c', 'all.conf', '-e', 'stderr', '-g', 'daemon off;']);
    try {
      await untilListening(port);
      await checkHeaders(project, port, 'gzip');
    } finally {
      server.kill();
    }
  });

  it('has an API example that runs', () => {
    const [block] = fileBlocks(read('docs/api.md'));
    const project = new TestProject({
      'a.css': 'a { }',
      'anvil.yaml': 'pipelines: { one: { from: a.css, to: site } }\n',
      [block!.file]: block!.text,
    });
    mkdirSync(project.path('node_modules'));
    symlinkSync(clone, project.path('node_modules/loyal-anvil'));
    const output = execFileSync(process.execPath, [block!.file], { cwd: project.root, encoding: 'utf8' });
    expect(output).toBe(
      'one built 1\na{color:red}\nexport let a=!0\na { -webkit-user-select: none; user-select: none }\n',
    );
  });

  it('calls functions in the page of the API as their types say, and names what they return', () => {
    const calls = [...read('docs/api.md').matchAll(/`(await )?([\w.]+\((?:[^`]*)\))`(?: returns? `\{ ([^}]*) \}`)?/g)];
    const names = new Set(calls.flatMap(([, , call = '']) => call.replace(/^[\w.]+/, '').match(/[A-Za-z]\w*/g) ?? []));
    const lines = calls.map(([, wait = '', call = '', results = '']) => {
      const members = results.replaceAll('?', '').split(', ').filter(Boolean);
      return members.length === 0
        ? `void ${call};`
        : `{ const result = ${wait}${call}; void [${members.map((one) => `result.${one}`).join(', ')}]; }`;
    });
    const project = new TestProject({
      'tsconfig.json':
        '{ "compilerOptions": { "strict": true, "noEmit": true, "target": "es2023", "lib": ["es2023", "dom"], "types": [], "skipLibCheck": true, "module": "nodenext" } }',
      'package.json': '{ "type": "module" }',
      'calls.ts': `import { browserCost, minifyScript, minifyStyle, prefixFeatures, prefixStyle, Project, Session, SiteServer } from 'loyal-anvil';
declare const project: Project, session: Session, server: SiteServer;
declare const ${[...names].map((name) => `${name}: any`).join(', ')};
${lines.join('\n')}
`,
    });
    mkdirSync(project.path('node_modules'));
    symlinkSync(clone, project.path('node_modules/loyal-anvil'));
    const tsc = `${clone}node_modules/typescript/bin/tsc`;
    const { status, stdout } = spawnSync(process.execPath, [tsc], { cwd: project.root, encoding: 'utf8' });
    expect([status, stdout]).toEqual([0, '']);
    expect(lines.length).toBeGreaterThan(14);
  });

  it('has pages on the project file and on every diagnostic that are made of what the program says', async () => {
    const project = new TestProject();
    execFileSync(process.execPath, [`${clone}build/tools/docs.js`, project.root]);
    for (const page of ['project-file.md', 'minify.md', 'prefix.md', 'diagnostics.md'])
      expect(read(`docs/${page}`), 'run `npm run docs`').toBe(project.read(page));
    const { diagnosticHelp } = (await import(`${clone}dist/index.js`)) as { diagnosticHelp: object };
    const sections = [...read('docs/diagnostics.md').matchAll(/^## (\S+)$/gm)].map(([, code]) => code);
    expect(sections).toEqual(Object.keys(diagnosticHelp));
    // No other example produces this diagnostic.
    expect(read('docs/diagnostics.md').match(/\[internal\]/g)).toHaveLength(1);
  });

  it('has pages of reference whose every statement is held by a test that exists', () => {
    const titles = new Map(
      readdirSync(`${clone}test`)
        .filter((file) => file.endsWith('.test.ts'))
        .map((file) => [file.replace('.test.ts', ''), read(`test/${file}`)]),
    );
    const isTest = (held: string): boolean => {
      const [file, ...title] = held.split(': ');
      const quoted = title.join(': ').replaceAll("'", "\\'");
      return held === 'defined' || held === 'advice' || titles.get(file!)?.includes(`'${quoted}'`) === true;
    };
    const wrong: string[] = [];
    for (const section of read('test/statements.txt').split(/^# /m).slice(1)) {
      const [page, ...lines] = section.split('\n').filter((line) => line !== '');
      const statements = statementsOf(read(page!));
      const quotes = lines.filter((line) => !line.startsWith('  '));
      const isIn = (one: string, quote: string): boolean => one.includes(quote);
      wrong.push(
        ...statements
          .filter((one) => !quotes.some((quote) => isIn(one, quote)))
          .map((one) => `not in the list: ${one}`),
        ...quotes
          .filter((quote) => !statements.some((one) => isIn(one, quote)))
          .map((one) => `not in ${page!}: ${one}`),
        ...lines.filter((line) => line.startsWith('  ') && !isTest(line.trim())).map((one) => `no such test: ${one}`),
        ...lines.filter((line, at) => !line.startsWith(' ') && lines[at + 1]?.startsWith('  ') !== true),
      );
    }
    expect(wrong).toEqual([]);
  });

  it('has no dead links to pages and pictures', () => {
    const pages = [
      'README.md',
      'CONTRIBUTING.md',
      ...readdirSync(`${clone}docs`)
        .filter((name) => name.endsWith('.md'))
        .map((name) => `docs/${name}`),
    ];
    for (const page of pages) {
      for (const [, link = ''] of read(page).matchAll(/\]\(([^)#]+)[^)]*\)/g)) {
        if (!link.startsWith('http'))
          expect(() => readFileSync(new URL(link, `file://${clone}${page}`)), `${page}: ${link}`).not.toThrow();
      }
    }
  });

  it('names every command and every event', async () => {
    const project = new TestProject({
      'a.css': 'a { }',
      'anvil.yaml': 'pipelines: { one: { from: [a.css, b.css], to: site, steps: [minify] } }\n',
    });
    const formats = read('docs/formats.md');
    for (const args of [['build'], ['list'], ['clean']]) {
      for (const event of await project.events(args)) expect(formats).toContain(`| \`${String(event['event'])}\` |`);
    }
  });
});
