import { spawnSync } from 'node:child_process';
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Installs public packages into a folder, unless exactly these are already installed.
 *
 * @param wanted each as `name@version`
 * @throws Error if the package manager fails
 */
export function installPackages(folder: string, wanted: readonly string[]): void {
  const marker = join(folder, 'installed.txt');
  if (existsSync(marker) && readFileSync(marker, 'utf8') === wanted.join('\n')) return;
  console.log(`Installing ${String(wanted.length)} public packages …`);
  mkdirSync(folder, { recursive: true });
  writeFileSync(join(folder, 'package.json'), '{ "private": true }\n');
  const { status } = spawnSync(
    'npm',
    ['install', '--no-audit', '--no-fund', '--ignore-scripts', '--no-package-lock', '--omit=optional', ...wanted],
    { cwd: folder, stdio: ['ignore', 'ignore', 'inherit'] },
  );
  if (status !== 0) throw new Error(`the packages in ${folder} cannot be installed`);
  writeFileSync(marker, wanted.join('\n'));
}
