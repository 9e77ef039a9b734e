#!/usr/bin/env node
import { ownManifest } from '../core/assets/own-manifest.js';

// Other programs often ask for the version only: it should cost no more than starting Node.js.
if (process.argv.length === 3 && (process.argv[2] === '--version' || process.argv[2] === '-V')) {
  process.stdout.write(`${ownManifest().version}\n`);
} else {
  // Node.js ends a process whose work waits for something that never happens, without a word.
  const unsettled = 13;
  process.once('exit', (code) => {
    // Up to Node.js 20, the event does not have the code.
    if (code === unsettled || process.exitCode === unsettled)
      process.stderr.write('Internal error: the build never ended. Please report it.\n');
  });
  const { main } = await import('./main.js').catch((error: NodeJS.ErrnoException) => {
    if (error.code !== 'EMFILE' && error.code !== 'ENFILE') throw error;
    process.stderr.write('Too many files are open. Raise the limit of the system, such as with `ulimit -n 1024`.\n');
    process.exit(1);
  });
  const code = await main(process.argv.slice(2));
  process.exitCode = code;
  // An interrupted run need not finish: compiler processes end with this one.
  if (code === 130) process.exit();
}
