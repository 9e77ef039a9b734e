import { workerData } from 'node:worker_threads';
import type { DeepTask } from './deep-call.js';
import { minifyScript, minifyStyle, prefixStyle, type TextResult } from './pure.js';

const functions: Readonly<Record<string, (text: string, options: object) => TextResult>> = {
  minifyScript,
  minifyStyle,
  prefixStyle,
};

const { name, text, options, done, port } = workerData as DeepTask;
try {
  port.postMessage(functions[name]!(text, options));
} catch {
  port.postMessage(undefined);
}
Atomics.store(done, 0, 1);
Atomics.notify(done, 0);
