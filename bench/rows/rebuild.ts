import { spawn, type ChildProcess } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, renameSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { program } from '../../test/support/program.js';
import { clone } from '../corpus.js';
import { WarmCompiler } from '../warm-compiler.js';
import { inTurns, median, ratiosOf, runProcess, type Row } from '../measure.js';

const looker = join(clone, 'build/bench/look.js');

/** The maximum number of sheets that use the shared partial. */
const sheetsOfPartial = 200;
const rounds = 25;

/** Measures rebuilds, and how their times grow with the size of the project. */
export async function rebuilding(): Promise<Row[]> {
  const small = new Bulk(100);
  const large = new Bulk(5000);
  try {
    small.build();
    large.build();
    return [await nothingToDo(large), ...(await leafRows(small, large))];
  } finally {
    small.remove();
    large.remove();
  }
}

/** Rebuild times by project size: a table in milliseconds, in which the columns are compared with each other. */
export async function scaling(sizes: readonly number[] = [100, 1000, 5000, 20_000]): Promise<string[]> {
  const lines = ['sources      cold    nothing to do    one leaf, session    a partial of 200 sheets, session'];
  for (const size of sizes) {
    const bulk = new Bulk(size);
    try {
      const cold = timed(() => bulk.build());
      bulk.build();
      const nothing = median([1, 2, 3].map(() => timed(() => bulk.build())));
      const session = await BenchSession.start(bulk);
      const leaf = await session.times('module', 5);
      const partial = await session.times('partial', 5);
      await session.end();
      const figures = [cold, nothing, median(leaf), median(partial)].map((one) => `${one.toFixed(0)} ms`);
      lines.push(
        `${String(size).padStart(7)}  ${figures[0]!.padStart(8)}  ${figures[1]!.padStart(15)}  ${figures[2]!.padStart(19)}  ${figures[3]!.padStart(34)}`,
      );
    } finally {
      bulk.remove();
    }
  }
  return lines;
}

/** A build with nothing to do, relative to a bare program that lists and stats the same files. */
async function nothingToDo(bulk: Bulk): Promise<Row> {
  bulk.build();
  const times = await inTurns(
    rounds,
    () => runProcess([program, 'build'], { folder: bulk.root }),
    () => runProcess([looker, 'src', 'site'], { folder: bulk.root }),
  );
  return {
    what: 'a build with nothing to do, 5,000 sources',
    reference: 'listing and looking at the same files',
    bar: 1.4,
    ...ratiosOf(times),
  };
}

/**
 * One changed file in a session of a small and of a large project, alternately, relative to the warm compiler alone in
 * its own process.
 */
async function leafRows(small: Bulk, large: Bulk): Promise<Row[]> {
  const [few, many] = [await BenchSession.start(small), await BenchSession.start(large)];
  const warm = await WarmCompiler.start({
    module: join(large.root, pathOf('module', 7)),
    sheet: join(large.root, pathOf('sheet', 7)),
  });
  const rows: Row[] = [];
  for (const kind of ['module', 'sheet'] as const) {
    const times = { few: [] as number[], many: [] as number[], alone: [] as number[] };
    for (let round = 0; round <= rounds; round++) {
      const [inFew] = await few.times(kind, 1);
      const [inMany] = await many.times(kind, 1);
      const alone = await warm.time(kind);
      if (round === 0) continue;
      times.few.push(inFew!);
      times.many.push(inMany!);
      times.alone.push(alone);
    }
    const many5000 = median(times.many).toFixed(1);
    rows.push(
      {
        what: `one changed ${kind} in a session of 5,000 sources, from the rename on disk to the last output`,
        reference: '1.3 times the compiler alone plus 15 ms',
        bar: 1,
        ratios: times.many.map((value, index) => value / (1.3 * times.alone[index]! + 15)),
        note: `${many5000} ms; the compiler alone ${median(times.alone).toFixed(1)} ms`,
      },
      {
        what: `one changed ${kind} in a session of 5,000 sources`,
        reference: 'in one of 100 sources',
        bar: 1.2,
        ratios: times.many.map((value, index) => value / times.few[index]!),
        note: `${many5000} ms beside ${median(times.few).toFixed(1)} ms, from the rename to the event that all is published`,
      },
    );
  }
  rows.push({
    what: 'peak memory of a session of 5,000 sources',
    reference: 'a session of 100',
    ratios: [many.peak() / few.peak()],
    note: `${many.peak().toFixed(0)} MB beside ${few.peak().toFixed(0)} MB`,
  });
  await Promise.all([few.end(), many.end(), warm.end()]);
  return rows;
}

/** A project of many sources, always the same: sheets that share a partial, and modules. */
class Bulk {
  readonly root = mkdtempSync(join(tmpdir(), 'anvil-bulk-'));
  readonly sheets: number;
  #edits = 0;

  constructor(readonly size: number) {
    this.sheets = Math.min(sheetsOfPartial, size / 2);
    this.#write(
      'anvil.yaml',
      'browsers: chrome 120\npipelines:\n  styles: { from: src/**/*.scss, to: site, steps: [compile] }\n  scripts: { from: src/**/*.ts, to: site, steps: [compile] }\n',
    );
    this.#write('src/_partial.scss', partial(0));
    for (let number = 0; number < this.sheets; number++) this.#write(pathOf('sheet', number), sheet(number, 0));
    for (let number = 0; number < size - this.sheets; number++)
      this.#write(pathOf('module', number), module(number, 0));
  }

  build(): void {
    runProcess([program, 'build', '--quiet', '--profile', 'production'], { folder: this.root });
  }

  remove(): void {
    rmSync(this.root, { recursive: true, force: true });
  }

  /** Saves another version of a file, by renaming, as editors do; returns the time in milliseconds. */
  edit(kind: 'module' | 'sheet' | 'partial'): number {
    const edit = ++this.#edits;
    const path = kind === 'partial' ? 'src/_partial.scss' : pathOf(kind, 7);
    const text = kind === 'partial' ? partial(edit) : kind === 'sheet' ? sheet(7, edit) : module(7, edit);
    // The temporary file is in the same folder, so that only the rename is an event.
    this.#write('next', text);
    const started = performance.now();
    renameSync(join(this.root, 'next'), join(this.root, path));
    return started;
  }

  #write(path: string, text: string): void {
    mkdirSync(join(this.root, path, '..'), { recursive: true });
    writeFileSync(join(this.root, path), text);
  }
}

const pathOf = (kind: 'module' | 'sheet', number: number): string =>
  `src/${String(number % 50)}/${kind}${String(number)}.${kind === 'module' ? 'ts' : 'scss'}`;

const partial = (edit: number): string => `$space: ${String(edit + 1)}px;\n@mixin panel { border: $space solid; }\n`;

const sheet = (number: number, edit: number): string =>
  `@use "../partial";\n${Array.from({ length: 30 }, (_, at) => `.s${String(number)}-${String(at)} { @include partial.panel; margin: ${String(at + edit)}px; &:hover { color: red } }`).join('\n')}\n`;

const module = (number: number, edit: number): string =>
  Array.from(
    { length: 12 },
    (_, at) =>
      `export interface Shape${String(at)} { readonly id: number; readonly name?: string }\nexport function measure${String(at)}(shape: Shape${String(at)}, scale: number = ${String(number + edit)}): string {\n  return \`\${shape.id * scale}: \${shape.name ?? 'nobody'}\`;\n}\n`,
  ).join('\n');

/** A session of the program. */
class BenchSession {
  #heard: { readonly event: string; readonly at: number }[] = [];
  #rest = '';

  private constructor(
    private readonly bulk: Bulk,
    private readonly child: ChildProcess,
  ) {
    child.stdout!.setEncoding('utf8').on('data', (text: string) => this.#take(text));
  }

  static async start(bulk: Bulk): Promise<BenchSession> {
    const args = [program, 'watch', '--format', 'json', '--profile', 'production'];
    const session = new BenchSession(
      bulk,
      spawn(process.execPath, args, { cwd: bulk.root, stdio: ['ignore', 'pipe', 'ignore'] }),
    );
    await session.#next('waiting');
    await pause(500);
    return session;
  }

  /** The times of edits in milliseconds, from each rename to the event that all outputs are published. */
  async times(kind: 'module' | 'sheet' | 'partial', count: number): Promise<number[]> {
    const times: number[] = [];
    for (let round = 0; round < count; round++) {
      this.#heard = [];
      const started = this.bulk.edit(kind);
      const done = await this.#next('build-done');
      times.push(done - started);
      await this.#next('waiting');
      await pause(30);
    }
    return times;
  }

  /** Its peak memory, in megabytes; undefined if the system does not report it. */
  peak(): number {
    const status = readFileSync(`/proc/${String(this.child.pid)}/status`, 'utf8');
    return Number(/VmHWM:\s+(\d+)/.exec(status)?.[1] ?? 0) / 1000;
  }

  end(): Promise<unknown> {
    this.child.kill('SIGTERM');
    return new Promise((over) => this.child.on('exit', over));
  }

  async #next(event: string): Promise<number> {
    for (;;) {
      const found = this.#heard.find((one) => one.event === event);
      if (found) return found.at;
      await new Promise((more) => this.child.stdout!.once('data', more));
    }
  }

  #take(text: string): void {
    const at = performance.now();
    const lines = (this.#rest + text).split('\n');
    this.#rest = lines.pop()!;
    for (const line of lines) this.#heard.push({ event: (JSON.parse(line) as { event: string }).event, at });
  }
}

function timed(work: () => void): number {
  const started = performance.now();
  work();
  return performance.now() - started;
}
