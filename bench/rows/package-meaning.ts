import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Browser } from 'playwright-core';
import { openBrowser, serveFolder } from '../../test/support/browser.js';
import { program } from '../../test/support/program.js';
import { clone } from '../corpus.js';
import type { Count } from '../measure.js';
import { installPackages } from '../packages.js';
import { bundleMeaning, type LinkedPackage } from './bundle-meaning.js';

/** Widely used packages for browsers: editors, frameworks, state, charts, forms, dates and others. */
const packages = [
  ...['@codemirror/state@6.7.6', '@codemirror/view@6.43.15', 'prosemirror-model@1.25.13', 'prosemirror-view@1.44.0'],
  ...['quill@2.0.3', 'lexical@0.53.0', '@tiptap/core@3.35.0', '@tiptap/pm@3.35.0'],
  ...['react@19.3.1', 'react-dom@19.3.1', 'preact@11.2.0', '@vue/runtime-dom@3.5.45', 'lit@3.3.3', 'solid-js@1.9.20'],
  ...['svelte@5.57.3', 'mithril@2.3.8', 'alpinejs@3.17.5', 'htmx.org@4.0.1'],
  ...['redux@5.0.1', 'zustand@5.1.0', 'mobx@7.1.3', 'xstate@5.33.3', 'immer@11.2.13', 'nanostores@1.5.5', 'rxjs@7.8.2'],
  ...['chart.js@4.6.1', 'd3-scale@4.0.3', 'd3-shape@3.2.1', 'uplot@1.6.32', 'three@0.187.0'],
  ...['react-hook-form@7.92.0', 'yup@1.7.1', 'zod@4.6.7', 'final-form@5.0.1', 'valibot@1.5.0'],
  ...['date-fns@4.4.0', 'dayjs@1.11.23', 'luxon@3.7.2', 'moment@2.31.0'],
  ...[
    'lodash-es@4.18.1',
    'marked@18.2.1',
    'dompurify@3.5.0',
    'fuse.js@7.5.0',
    '@popperjs/core@2.11.8',
    'swiper@14.4.0',
  ],
  ...['flatpickr@4.6.13', 'tippy.js@6.3.7', 'i18next@27.2.9', 'sortablejs@1.15.7'],
];

const folder = join(clone, 'bench/.packages');
const nameOf = (wanted: string): string => wanted.replace(/(?<=.)@.*/, '');
const fileOf = (name: string): string => name.replace(/\W/g, '-');

/** The ways of linking, all for production: the first is what the others are compared with. */
const ways = ['plain', 'development', 'minified', 'hashed'] as const;

const projectFile = `browsers: chrome 120
profiles:
  development: { constants: { process.env.NODE_ENV: production } }
  plain: {}
  minified: {}
  hashed: { names: hashed }
pipelines:
  driver: { from: driver/drive.js, to: "out/{profile}" }
  packages: { from: src/*.js, to: "out/{profile}", steps: [link, { minify: { only: [minified, hashed] } }], base: src }
  pages: { from: pages/*.html, to: "out/{profile}" }
`;

/**
 * Calls what a package exports with some arguments, and the methods of what comes back, and tells the outcomes. Names and
 * texts of functions, and messages of the engine, which quotes code, are left out. It is the same script in all ways.
 */
const driver = `
// Packages keep it when they are loaded.
Math.random = () => 0.5;
function drive(all) {
  const told = {};
  const now = 1764547200000;
  const textOf = Function.prototype.toString;
  Function.prototype.toString = () => 'function';
  Date.now = () => now;
  performance.now = () => 1;
  // Their names depend on the way.
  for (const script of document.querySelectorAll('script')) script.remove();
  let ids = 0;
  crypto.randomUUID = () => String(ids++);
  const element = () => document.body.appendChild(document.createElement('p'));
  const inputs = () => [[], [0], [2.5, 4], ['lantern'], [[3, 1, 2]], [{ star: 'Vega', rank: 2 }], ['a-b c', 2], [[1, 2], [2, 3]],
    [[1, 2, 3], (one) => one * 2], [(one) => one, 1], [null], [[{ rank: 1 }, { rank: 0 }], 'rank'], ['*night*\\n\\n- sky'],
    [new Date(now)], [element()], [element(), { star: 'Vega' }], [(state = 0, { type } = {}) => (type ? state + 1 : state)],
    [{ type: 'object', nodes: { doc: { content: 'text*' }, text: {} } }], ['p', { class: 'sky' }, 'Clear'], ['2026-12-01', 'yyyy']];
  const shown = (value, depth = 0) => {
    if (typeof value === 'string') return JSON.stringify(value.slice(0, 200));
    if (value instanceof Node) return value.outerHTML ?? value.textContent;
    if (typeof value !== 'object' || value === null) return typeof value === 'function' ? 'function' : String(value);
    if (depth > 3) return 'deep';
    const keys = Object.keys(value);
    return '{' + keys.slice(0, 30).map((key) => key + ': ' + shown(value[key], depth + 1)).join(', ') + '}';
  };
  const kinds = [TypeError, RangeError, SyntaxError, ReferenceError, URIError, DOMException];
  const outcome = (call) => {
    try {
      const value = call();
      return [shown(value), value];
    } catch (error) {
      // Names of other classes may be shorter.
      return [error instanceof Error ? (kinds.find((kind) => error instanceof kind)?.name ?? 'Error') : 'thrown'];
    }
  };
  const methodsOf = (value) => {
    const names = new Set();
    for (let one = Object.getPrototypeOf(value); one && one !== Object.prototype && one !== Function.prototype; one = Object.getPrototypeOf(one))
      if (!(value instanceof Node) && !Array.isArray(value) && !(value instanceof Promise))
        for (const name of Object.getOwnPropertyNames(one)) if (name !== 'constructor') names.add(name);
    return [...names].sort().slice(0, 40);
  };
  const use = (path, value, depth, owner) => {
    if (typeof value === 'function') {
      for (const [at, args] of inputs().entries()) {
        const isClass = /^class\\b/.test(textOf.call(value));
        const [said, result] = outcome(() => (isClass ? new value(...args) : value.apply(owner, args)));
        told[path + '#' + at] = said;
        outcome(() => result?.catch?.(() => undefined));
        // Proxies may throw, and errors quote code.
        if (typeof result === 'object' && result !== null && depth < 1 && !(result instanceof Error))
          for (const name of outcome(() => methodsOf(result))[1] ?? []) {
            const [about, method] = outcome(() => result[name]);
            told[path + '#' + at + '.' + name] = about;
            if (typeof method === 'function') told[path + '#' + at + '.' + name + '()'] = outcome(() => method.apply(result, inputs()[at % 7]))[0];
          }
      }
    } else if (typeof value === 'object' && value !== null && depth < 1)
      for (const name of new Set([...Object.keys(value).sort().slice(0, 40), ...methodsOf(value)]))
        use(path + '.' + name, outcome(() => value[name])[1], depth + 1, value);
    else told[path] = shown(value);
  };
  told.names = Object.keys(all).sort().join();
  const left = new URL(location.href).searchParams.getAll('leave');
  for (const name of Object.keys(all).sort()) {
    if (left.includes(name)) continue;
    console.debug('uses ' + name);
    use(name, all[name], 0);
  }
  window.told = told;
}
`;

/** The names in the variable `PACKAGES`, with commas between them: all packages take about an hour. */
const chosen = process.env['PACKAGES']?.split(',');

/** Compares what widely used packages do in Chromium and in Node.js when they are linked in several ways. */
export async function* packageMeaning(): AsyncGenerator<Count | string> {
  installPackages(folder, packages);
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  const names = packages.map(nameOf).filter((name) => name !== '@tiptap/pm' && chosen?.includes(name) !== false);
  try {
    symlinkSync(join(folder, 'node_modules'), join(root, 'node_modules'));
    for (const one of ['src', 'src/all', 'pages', 'driver']) mkdirSync(join(root, one));
    writeFileSync(join(root, 'anvil.yaml'), projectFile.replace('src/*.js', '[src/*.js, src/all/*.js]'));
    writeFileSync(join(root, 'driver/drive.js'), driver);
    for (const name of names) {
      const file = fileOf(name);
      const text = `import * as all from '${name}';\ndrive(all);\n`;
      writeFileSync(join(root, 'src', `${file}.js`), text);
      writeFileSync(join(root, 'src/all', `${file}.js`), `export * as all from '${name}';\n`);
      const page = `<!doctype html>\n<title>${name}</title>\n<body><script src="drive.js"></script><script type="module" src="${file}.js"></script>\n`;
      writeFileSync(join(root, 'pages', `${file}.html`), page);
    }
    for (const way of ways) {
      const { status, stderr } = spawnSync(
        process.execPath,
        [program, 'build', '--profile', way, '--format', 'lines'],
        {
          cwd: root,
          encoding: 'utf8',
          maxBuffer: 1 << 28,
        },
      );
      const errors = stderr.split('\n').filter((line) => line.includes(': error: '));
      yield {
        what: `errors in linking ${String(names.length)} packages, ${way}`,
        wrong: errors.length,
        note: errors[0],
      };
      if (status !== 0) return;
    }
    yield* inChromium(root, names);
    // Many packages are others for production.
    process.env['NODE_ENV'] = 'production';
    const linked = names.map((name): LinkedPackage => {
      const file = `all/${fileOf(name)}.js`;
      return { name, entry: join(root, 'src', file), bundle: join(root, 'out/plain', file), isWhole: true };
    });
    yield* bundleMeaning(linked);
  } finally {
    rmSync(root, { recursive: true });
  }
}

type Outcomes = Readonly<Record<string, string>>;

async function* inChromium(root: string, names: readonly string[]): AsyncGenerator<Count | string> {
  const served = await serveFolder(join(root, 'out'));
  try {
    for (const name of names) {
      const drive = await PackageDrive.start(served.url, fileOf(name));
      // What differs from one run to the next depends on something else; the first run finds what does not end.
      await drive.outcomes(ways[0]);
      const [first, again] = [await drive.outcomes(ways[0]), await drive.outcomes(ways[0])];
      const stable = Object.keys(first).filter((key) => first[key] === again[key]);
      const wrong: string[] = [];
      for (const way of ways.slice(1)) {
        const found = await drive.outcomes(way);
        const others = stable.filter((key) => found[key] !== first[key]);
        wrong.push(...others.map((key) => `${way} ${key}: ${String(found[key])} instead of ${String(first[key])}`));
      }
      await drive.close();
      const left = drive.left.length === 0 ? '' : `, without ${drive.left.join(', ')}, whose calls do not end`;
      const error = first['error'] === undefined ? '' : ` (${first['error']})`;
      yield {
        what: `of ${String(stable.length)} outcomes of calls of ${name} in Chromium${left}, that depend on the way of linking${error}`,
        wrong: wrong.length,
        note: wrong.slice(0, 10).join('\n    ') || undefined,
      };
    }
  } finally {
    served.close();
  }
}

/** The longest time that all calls of a package may take, in milliseconds, and how many exports may exceed it. */
const longest = 5_000;
const maxLeft = 12;

/** Pages that drive one package; exports with a call that does not end are left out. */
class PackageDrive {
  /** Exports with a call that does not end. */
  readonly left: string[] = [];

  private constructor(
    private browser: Browser,
    private readonly url: string,
    private readonly file: string,
  ) {}

  static async start(url: string, file: string): Promise<PackageDrive> {
    return new PackageDrive(await openBrowser(), url, file);
  }

  close(): Promise<void> {
    return this.browser.close();
  }

  async outcomes(way: string): Promise<Outcomes> {
    for (;;) {
      const found = await this.#once(way);
      if (typeof found !== 'string') return found;
      // A page that is busy ends with its browser only.
      await this.browser.close();
      this.browser = await openBrowser();
      if (this.left.length === maxLeft || found === '') return { error: 'it does not end' };
      this.left.push(found);
    }
  }

  /** The outcomes, or the export whose calls do not end. */
  async #once(way: string): Promise<Outcomes | string> {
    const page = await this.browser.newPage();
    const errors: string[] = [];
    let used = '';
    page.on('pageerror', (error) => errors.push(error.message));
    page.on('dialog', (dialog) => void dialog.dismiss());
    page.on('console', (message) => {
      if (message.text().startsWith('uses ')) used = message.text().slice('uses '.length);
    });
    const query = this.left.map((name) => `leave=${encodeURIComponent(name)}`).join('&');
    try {
      await page.goto(`${this.url}${way}/${this.file}.html?${query}`, { waitUntil: 'commit' });
      await page.waitForFunction(() => 'told' in window, undefined, { timeout: longest });
      const told = await page.evaluate(() => (window as unknown as { told: Outcomes }).told);
      return Object.fromEntries(Object.entries(told).map(([key, said]) => [key, withoutNames(said)]));
    } catch {
      return errors.length > 0 && used === '' ? { error: errors[0]! } : used;
    } finally {
      // A page that is busy does not close.
      await Promise.race([page.close(), pause(500)]);
    }
  }
}

/** An outcome without what the way of linking is called, and the hashes of names, in URLs of the page and its scripts. */
const withoutNames = (said: string): string =>
  said.replaceAll(/-[\da-f]{10}(?=\.js)/g, '').replaceAll(new RegExp(`/(${ways.join('|')})/`, 'g'), '/way/');
