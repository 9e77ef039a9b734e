import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import type { Page } from 'playwright-core';
import { openBrowser } from '../../test/support/browser.js';
import { copyDemo } from '../../test/support/demo.js';
import { program } from '../../test/support/program.js';
import { clone } from '../corpus.js';
import { median, type Row } from '../measure.js';
import { WarmCompiler } from '../warm-compiler.js';

const rounds = 30;

/** The maximum overhead over the compiler's own time, in milliseconds. */
const allowance = 60;

/** The number of consecutive saves, and the interval between them, in milliseconds. */
const rapidSaves = 200;
const rapidPause = 8;

/** A sheet of one pipeline, and one that another pipeline joins into its own; the page uses both. */
const sheet = 'styles/booking.scss';
const joinedSheet = 'styles/site.scss';
const script = 'scripts/main.ts';

/** Measures the time from a save until the browser shows the change, on the demo. */
export async function showing(): Promise<(Row | string)[]> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-page-'));
  copyDemo(clone, root);
  const { url, child, rebuilds } = await serve(root);
  const browser = await openBrowser();
  const compiler = await WarmCompiler.start({ module: join(root, script), sheet: join(root, sheet) });
  try {
    const page = await browser.newPage();
    const connected = page.waitForResponse((response) => response.url().includes('/events'));
    await page.goto(`${url}visit.html`);
    await connected;
    return [
      await swapTimes(root, page, compiler, sheet, true),
      await swapTimes(root, page, compiler, joinedSheet, false),
      await reloadTimes(root, page, compiler),
      await rapid(root, page, rebuilds),
    ];
  } finally {
    await Promise.all([browser.close(), compiler.end()]);
    child.kill();
    await new Promise((over) => child.on('exit', over));
    rmSync(root, { recursive: true, force: true });
  }
}

/** From the rename of a sheet to the new computed style in the page. */
async function swapTimes(
  root: string,
  page: Page,
  compiler: WarmCompiler,
  path: string,
  isAlone: boolean,
): Promise<Row> {
  const text = readFileSync(join(root, path), 'utf8');
  // Each sheet has its own colour, so that neither hides the other.
  const property = isAlone ? 'outline-color' : 'column-rule-color';
  const ours: number[] = [];
  const alone: number[] = [];
  for (let round = 0; round <= rounds; round++) {
    const color = `rgb(${String(round)}, 7, 9)`;
    const shown = page.evaluate(seen, [property, color] as const);
    const started = save(root, path, `${text}\nbody { ${property}: ${color} }\n`);
    const took = (await shown) - started;
    await pause(150);
    const reference = await compiler.time('sheet');
    if (round === 0) continue;
    ours.push(took);
    alone.push(reference);
  }
  return {
    what: `a saved sheet${isAlone ? '' : ' that a second pipeline waits for'}, from the rename on disk to the style that the page computes`,
    reference: `the compiler alone plus ${String(allowance)} ms`,
    bar: 1,
    ratios: ours.map((value, index) => value / (alone[index]! + allowance)),
    note: `${median(ours).toFixed(1)} ms; the compiler alone ${median(alone).toFixed(1)} ms; medians of ${String(rounds)}`,
  };
}

/** Waits in the page for a colour; resolves with the time, in milliseconds since 1970. */
function seen([property, color]: readonly [string, string]): Promise<number> {
  const channel = new MessageChannel();
  return new Promise((done) => {
    channel.port1.onmessage = () => {
      if (getComputedStyle(document.body).getPropertyValue(property) === color)
        done(performance.timeOrigin + performance.now());
      else channel.port2.postMessage('');
    };
    channel.port2.postMessage('');
  });
}

/** From the rename of a module to the load event of the reloaded page. */
async function reloadTimes(root: string, page: Page, compiler: WarmCompiler): Promise<Row> {
  const text = readFileSync(join(root, script), 'utf8');
  const ours: number[] = [];
  const alone: number[] = [];
  for (let round = 0; round <= rounds; round++) {
    const loaded = page.waitForEvent('load');
    const started = save(root, script, `${text}\nexport const round = ${String(round)};\n`);
    await loaded;
    const at = await page.evaluate(
      () =>
        performance.timeOrigin +
        (performance.getEntriesByType('navigation')[0] as PerformanceNavigationTiming).loadEventStart,
    );
    await pause(300);
    const reference = await compiler.time('module');
    if (round === 0) continue;
    ours.push(at - started);
    alone.push(reference);
  }
  return {
    what: 'a saved module, from the rename on disk to the load event of the page',
    reference: `the compiler alone plus ${String(allowance)} ms`,
    ratios: ours.map((value, index) => value / (alone[index]! + allowance)),
    note: `${median(ours).toFixed(1)} ms; the compiler alone ${median(alone).toFixed(1)} ms; medians of ${String(rounds)}`,
  };
}

/** Saves that are faster than builds: the number of reloads, and whether the page shows the last save. */
async function rapid(root: string, page: Page, rebuilds: () => number): Promise<string> {
  const text = readFileSync(join(root, script), 'utf8');
  let loads = 0;
  const before = rebuilds();
  page.on('load', () => loads++);
  let last = '';
  for (let number = 1; number <= rapidSaves; number++) {
    last = `save ${String(number)}`;
    save(root, script, `${text}\ndocument.documentElement.dataset['save'] = '${last}';\n`);
    await pause(rapidPause);
  }
  await page.waitForFunction((wanted) => document.documentElement.dataset['save'] === wanted, last, {
    timeout: 60_000,
  });
  await pause(1000);
  return `${String(rapidSaves)} rapid saves of a module: ${String(rebuilds() - before)} rebuilds, the page was loaded ${String(loads)} times and shows the last one`;
}

/** Saves as editors do; returns the time of the rename, in milliseconds since 1970. */
function save(root: string, path: string, text: string): number {
  writeFileSync(join(root, 'next'), text);
  const started = performance.timeOrigin + performance.now();
  renameSync(join(root, 'next'), join(root, path));
  return started;
}

async function serve(root: string): Promise<{ url: string; child: ChildProcess; rebuilds: () => number }> {
  const child = spawn(process.execPath, [program, 'serve', '--port', '0', '--format', 'json'], {
    cwd: root,
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  let said = '';
  let isReady = false;
  let told = 0;
  child.stdout.setEncoding('utf8').on('data', (text: string) => {
    told += text.match(/"event":"build-done"/g)?.length ?? 0;
    if (!isReady) said += text;
    isReady ||= said.includes('"event":"waiting"');
  });
  while (!isReady) await pause(20);
  await pause(1500);
  return { url: /"urls":\["([^"]+)"/.exec(said)![1]!, child, rebuilds: () => told };
}
