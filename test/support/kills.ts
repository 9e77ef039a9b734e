// Kills the program at random moments; checks that no file is incomplete and that the next build is right.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as pause } from 'node:timers/promises';
import { program } from './program.js';

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

function write(root: string, state: number): void {
  for (let file = 0; file < 20; file++) {
    writeFileSync(join(root, `src/${String(file)}.css`), `a { margin: ${String(state)}px }\n`);
    writeFileSync(join(root, `src/${String(file)}.ts`), `export const at: number = ${String(state)};\n`);
  }
}

function outputs(root: string): string[] {
  return existsSync(join(root, 'site')) ? readdirSync(join(root, 'site')).filter((name) => !name.startsWith('.')) : [];
}
