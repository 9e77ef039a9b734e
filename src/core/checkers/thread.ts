// The program of the threads of checkers: answers requests one after the other.
import { parentPort, workerData } from 'node:worker_threads';
import type { Check, CheckerName, CheckRequest } from './checker.js';

const checkers: Readonly<Record<CheckerName, () => Promise<Check>>> = {
  types: async () => (await import('./types.js')).checkTypes,
  eslint: async () => (await import('./eslint.js')).checkWithEslint,
  stylelint: async () => (await import('./stylelint.js')).checkWithStylelint,
};

const { checker } = workerData as { readonly checker: CheckerName };
const port = parentPort!;
let last = Promise.resolve();

port.on('message', ({ id, request }: { readonly id: number; readonly request: CheckRequest }) => {
  last = last.then(async () => {
    try {
      const check = await checkers[checker]();
      port.postMessage({ id, result: await check(request) });
    } catch (error) {
      port.postMessage({ id, problem: error instanceof Error ? error.message : String(error) });
    }
  });
});
