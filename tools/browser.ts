// Sees to the programs that the tests need: Debian's chromium, installed by apt where it is missing and that is possible,
// and nginx, for which an example of the documentation is.
import { spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { delimiter, join } from 'node:path';

/** The path of the browser: from CHROMIUM, or the first one on the PATH. */
function findBrowser(): string | undefined {
  const { CHROMIUM, PATH = '' } = process.env;
  return (
    CHROMIUM ??
    PATH.split(delimiter)
      .flatMap((folder) => ['chromium', 'chromium-browser'].map((name) => join(folder, name)))
      .find(existsSync)
  );
}

function run(command: string, ...args: string[]): boolean {
  return (
    spawnSync(command, args, { stdio: 'inherit', env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' } })
      .status === 0
  );
}

const canInstall = process.getuid?.() === 0 && existsSync('/usr/bin/apt-get');

function install(name: string): boolean {
  return (
    canInstall &&
    run('apt-get', 'update', '-qq') &&
    run('apt-get', 'install', '-y', '-qq', '--no-install-recommends', name)
  );
}

// Without it, its example is not tested.
if (!existsSync('/usr/sbin/nginx')) install('nginx-light');
if (findBrowser() === undefined) {
  if (canInstall) console.log('Installing chromium for the tests in a browser …');
  if (!install('chromium') || findBrowser() === undefined) {
    console.error(
      'The tests need Chromium, and none is on the PATH. Install it (on Debian: apt-get install chromium), or name one with CHROMIUM=/path.',
    );
    process.exit(1);
  }
}
