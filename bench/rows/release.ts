// A release of 5,000 pages and 2,000 pictures, named by content, beside copying the same files.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { program } from '../../test/support/program.js';
import { inTurns, ratiosOf, runProcess, type Row } from '../measure.js';

const pages = 5000;
const pictures = 2000;

/** The content of a picture: bytes that compress badly. */
function picture(number: number, version: number): Buffer {
  const bytes = Buffer.alloc(8000);
  for (let at = 0, state = number * 7919 + version + 1; at < bytes.length; at++)
    bytes[at] = (state = (state * 48_271) % 2_147_483_647) & 255;
  return bytes;
}

function writeSite(root: string): void {
  for (const folder of ['pages', 'pictures']) mkdirSync(join(root, folder), { recursive: true });
  writeFileSync(
    join(root, 'anvil.yaml'),
    'profiles: { production: { names: hashed } }\npipelines:\n  pages: { from: pages/*, to: site/pages }\n  pictures: { from: pictures/*, to: site/pictures }\n',
  );
  for (let number = 0; number < pictures; number++)
    writeFileSync(join(root, `pictures/p${String(number)}.png`), picture(number, 0));
  for (let number = 0; number < pages; number++) {
    const images = Array.from(
      { length: 10 },
      (_, at) => `../pictures/p${String((number * 7 + at * 13) % pictures)}.png`,
    );
    const body = images.map((url) => `<p>Fernlight <img src="${url}" alt=""></p>`).join('\n');
    writeFileSync(
      join(root, `pages/n${String(number)}.html`),
      `<!doctype html><title>${String(number)}</title>\n${body}\n`,
    );
  }
}

/** Builds a release cold, and after one picture has changed. */
export async function* releases(): AsyncGenerator<Row | string> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  try {
    writeSite(root);
    const remove = (): void => {
      for (const folder of ['site', '.anvil-cache', 'node_modules', 'copy'])
        rmSync(join(root, folder), { recursive: true, force: true });
    };
    const copy = (): void => {
      cpSync(join(root, 'pages'), join(root, 'copy/pages'), { recursive: true });
      cpSync(join(root, 'pictures'), join(root, 'copy/pictures'), { recursive: true });
    };
    const build = (): void => runProcess([program, 'build', '--quiet'], { folder: root });
    const cold = await inTurns(
      2,
      () => {
        remove();
        build();
      },
      copy,
    );
    const what = `${String(pages)} pages and ${String(pictures)} pictures, names by content`;
    yield { what: `cold: ${what}`, reference: 'copying the files', ...ratiosOf(cold) };
    let version = 0;
    const change = (): void => {
      writeFileSync(join(root, 'pictures/p7.png'), picture(7, ++version));
      build();
    };
    yield {
      what: `one changed picture: ${what}`,
      reference: 'copying the files',
      ...ratiosOf(await inTurns(3, change, copy)),
    };
    remove();
    yield `peak memory of the cold build: ${peakOf([program, 'build', '--quiet'], root).toFixed(0)} MB`;
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** The peak memory of a process, in MB. */
function peakOf(args: readonly string[], folder: string): number {
  const report = 'data:text/javascript,process.on("exit",()=>console.log(process.resourceUsage().maxRSS))';
  const { stdout } = spawnSync(process.execPath, ['--import', report, ...args], { cwd: folder, encoding: 'utf8' });
  return Number(stdout.trim().split('\n').at(-1)) / 1024;
}
