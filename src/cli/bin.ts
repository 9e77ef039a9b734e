#!/usr/bin/env node
import { readFileSync } from 'node:fs';

// Other programs often ask for the version only: it should cost no more than starting Node.js.
if (process.argv.length === 3 && (process.argv[2] === '--version' || process.argv[2] === '-V')) {
  const manifest = JSON.parse(readFileSync(new URL('../../package.json', import.meta.url), 'utf8')) as {
    version: string;
  };
  process.stdout.write(`${manifest.version}\n`);
} else {
  const { main } = await import('./main.js');
  const code = await main(process.argv.slice(2));
  process.exitCode = code;
  // An interrupted run need not finish: compiler processes end with this one.
  if (code === 130) process.exit();
}
