// Kills the program at random moments; checks that no file is incomplete and that the next build is right.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { program } from './program.js';
import { Random } from './random.js';
import { danglingNames, RandomRelease } from './random-release.js';

/** The module that kills the program. */
const killer = new URL('kill-at.mjs', import.meta.url).href;

/** The number of kills between two checks of the next build. */
const between = 5;

/**
 * Kills builds, then sessions.
 *
 * @returns the first failure, if any
 */
export async function checkKills(builds: number, sessions: number): Promise<string | undefined> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-kills-'));
  try {
    mkdirSync(join(root, 'src'));
    writeFileSync(
      join(root, 'anvil.yaml'),
      'pipelines: { one: { from: src/*, to: site, steps: [{ compile: { match: "*.ts" } }, minify] } }\n',
    );
    for (let kill = 1; kill <= builds + sessions; kill++) {
      write(root, kill);
      const command = kill <= builds ? ['build'] : ['watch', '--profile', 'production'];
      const child = spawn(process.execPath, [program, ...command], { cwd: root, stdio: 'ignore' });
      const ended = new Promise((over) => child.on('exit', over));
      await pause(Math.random() * 1200);
      if (kill > builds) {
        write(root, kill + 0.5);
        await pause(Math.random() * 120);
      }
      child.kill('SIGKILL');
      await ended;
      const torn = outputs(root).find(
        (path) =>
          !/^(a\{margin:[\d.]+px\}|export let at=[\d.]+;?)$/.test(
            readFileSync(join(root, 'site', path), 'utf8').trim(),
          ),
      );
      if (torn !== undefined) return `${torn} was torn by kill ${String(kill)}`;
      if (kill % between > 0) continue;
      const { status, stderr } = spawnSync(process.execPath, [program, 'build'], { cwd: root, encoding: 'utf8' });
      if (status !== 0) return `after kill ${String(kill)} a build ended with ${String(status)}: ${stderr}`;
      const wanted = String(kill > builds ? kill + 0.5 : kill);
      const wrong = outputs(root).find((path) => !readFileSync(join(root, 'site', path), 'utf8').includes(wanted));
      if (wrong !== undefined || outputs(root).length !== 40)
        return `after kill ${String(kill)} ${wrong ?? 'an output'} is not right`;
    }
    return undefined;
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

/**
 * Kills builds while they publish outputs with hashed names.
 *
 * @returns the first reference of a published file to one that does not exist, if any
 */
export async function checkReleaseKills(kills: number, seed = 1): Promise<string | undefined> {
  const root = mkdtempSync(join(tmpdir(), 'anvil-kills-'));
  const random = new Random(seed);
  const release = new RandomRelease(seed);
  try {
    mkdirSync(join(root, 'site'));
    writeFileSync(
      join(root, 'anvil.yaml'),
      `profiles: { production: { names: hashed, compress: gzip } }
pipelines:
  texts: { from: "src/**/*.{css,js}", to: site, steps: [minify] }
  others: { from: "src/**/*.{png,svg,html,webmanifest}", to: site }
serve: { folder: site }
`,
    );
    let killed = 0;
    for (let kill = 1; kill <= kills; kill++) {
      for (let change = random.between(1, 6); change > 0; change--) release.change();
      for (const [path, content] of release.files) {
        mkdirSync(dirname(join(root, 'src', path)), { recursive: true });
        writeFileSync(join(root, 'src', path), content);
      }
      const env = { ...process.env, KILL_AT: String(random.between(1, 70)) };
      const { signal } = spawnSync(process.execPath, ['--import', killer, program, 'build'], { cwd: root, env });
      if (signal !== null) killed++;
      const [dangling] = danglingNames(join(root, 'site'), true);
      if (dangling !== undefined) return `after kill ${String(kill)} at ${env.KILL_AT}, ${dangling}`;
    }
    const { status, stderr } = spawnSync(process.execPath, [program, 'build'], { cwd: root, encoding: 'utf8' });
    if (status !== 0) return `after all kills, a build ended with ${String(status)}: ${stderr}`;
    return killed > kills / 4 ? danglingNames(join(root, 'site'))[0] : `only ${String(killed)} builds were killed`;
  } finally {
    rmSync(root, { recursive: true, force: true });
  }
}

function write(root: string, state: number): void {
  for (let file = 0; file < 20; file++) {
    writeFileSync(join(root, `src/${String(file)}.css`), `a { margin: ${String(state)}px }\n`);
    writeFileSync(join(root, `src/${String(file)}.ts`), `export const at: number = ${String(state)};\n`);
  }
}

function outputs(root: string): string[] {
  return existsSync(join(root, 'site')) ? readdirSync(join(root, 'site')).filter((name) => !name.startsWith('.')) : [];
}
