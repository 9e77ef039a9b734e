// Loaded before the program: kills it before its nth operation that changes files, so that kills need no luck.
import fs from 'node:fs';
import { syncBuiltinESMExports } from 'node:module';
import { isMainThread } from 'node:worker_threads';

let left = Number(process.env.KILL_AT);

for (const name of ['renameSync', 'rmSync', 'writeFileSync', 'writeSync', 'mkdirSync', 'rmdirSync', 'copyFileSync']) {
  if (!isMainThread) break;
  const original = fs[name];
  fs[name] = (...values) => {
    if (left-- === 1) process.kill(process.pid, 'SIGKILL');
    return original(...values);
  };
}
syncBuiltinESMExports();
