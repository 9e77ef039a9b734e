import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Row } from '../measure.js';

const clone = new URL('../../../', import.meta.url).pathname;
const program = join(clone, 'dist/cli/bin.js');

/** The number of small files that are copied, and the maximum memory for it, in MB. */
const files = 20_000;
const maxMemory = 400;

/** The size of the large file that is copied, in bytes. */
const largeFile = 200_000_000;

/** The maximum size of an installation, in MB. */
const maxInstalled = 110;

/** Measures the memory of builds of many files and of a large one, and the size of an installation. */
export function weight(): Row[] {
  return [...copying(), installed()];
}

function copying(): Row[] {
  const root = mkdtempSync(join(tmpdir(), 'anvil-weight-'));
  try {
    mkdirSync(join(root, 'src'));
    for (let number = 0; number < files; number++)
      writeFileSync(join(root, `src/${String(number)}.txt`), `file ${String(number)}\n`);
    writeFileSync(join(root, 'anvil.yaml'), 'pipelines: { one: { from: src/*, to: site } }\n');
    const many = peakOfBuild(root);
    rmSync(join(root, 'src'), { recursive: true });
    mkdirSync(join(root, 'src'));
    writeFileSync(join(root, 'src/large.bin'), Buffer.alloc(largeFile, 1));
    const large = peakOfBuild(root);
    const row = (what: string, peak: number): Row => ({
      what,
      reference: `${String(maxMemory)} MB`,
      ratios: [peak / maxMemory],
      bar: 1,
      note: `${peak.toFixed(0)} MB at most`,
    });
    return [
      row(`memory of copying ${String(files)} small files`, many),
      row(`memory of copying a file of ${String(largeFile / 1e6)} MB`, large),
    ];
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/** The peak memory of a build, in MB. */
function peakOfBuild(root: string): number {
  const report = 'data:text/javascript,process.on("exit",()=>console.error("peak "+process.resourceUsage().maxRSS))';
  const { status, stderr } = spawnSync(process.execPath, ['--import', report, program, 'build', '--quiet'], {
    cwd: root,
    encoding: 'utf8',
  });
  const [, peak] = /^peak (\d+)$/m.exec(stderr) ?? [];
  if (status !== 0 || peak === undefined) throw new Error(`the build ended with ${String(status)}: ${stderr}`);
  return Number(peak) / 1000;
}

function installed(): Row {
  const root = mkdtempSync(join(tmpdir(), 'anvil-installed-'));
  try {
    const npm = (args: readonly string[], cwd: string): void => {
      const { status, stderr } = spawnSync('npm', [...args, '--no-audit', '--no-fund'], { cwd, encoding: 'utf8' });
      if (status !== 0) throw new Error(`npm ${args.join(' ')}: ${stderr}`);
    };
    npm(['pack', '--ignore-scripts', '--pack-destination', root], clone);
    writeFileSync(join(root, 'package.json'), '{ "private": true }\n');
    const archive = readdirSync(root).find((name) => name.endsWith('.tgz'))!;
    npm(['install', join(root, archive)], root);
    const modules = join(root, 'node_modules');
    const sizes = readdirSync(modules, { recursive: true, withFileTypes: true })
      .filter((entry) => entry.isFile())
      .map((entry) => statSync(join(entry.parentPath, entry.name)));
    const size = sizes.reduce((sum, one) => sum + one.size, 0) / 1e6;
    const onDisk = sizes.reduce((sum, one) => sum + one.blocks * 512, 0) / 1e6;
    return {
      what: 'size of an installation',
      reference: `${String(maxInstalled)} MB`,
      ratios: [size / maxInstalled],
      bar: 1,
      note: `${size.toFixed(0)} MB in ${String(sizes.length)} files, which take ${onDisk.toFixed(0)} MB of this disk`,
    };
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}
