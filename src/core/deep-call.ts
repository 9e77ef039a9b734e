import { MessageChannel, receiveMessageOnPort, Worker, workerData, type MessagePort } from 'node:worker_threads';

/** One call of a function that makes a text of a text. */
export interface DeepTask {
  readonly name: string;
  readonly text: string;
  readonly options: object;
  /** Becomes 1 when the result has been sent. */
  readonly done: Int32Array;
  readonly port: MessagePort;
}

/** The call stack of the thread, in MB. */
const stackSize = 512;

/** The time limit for one text, in milliseconds. */
const longest = 120_000;

/**
 * Calls one of the pure functions in a thread with a larger call stack, and waits for it: parsers and printers follow
 * the nesting of a text on the stack, and a long chain of operators is nested, too.
 *
 * @returns undefined when even that thread has not enough memory for it
 */
export function callDeeply<Result>(name: string, text: string, options: object): Result | undefined {
  // This thread already has the large stack.
  if ((workerData as Partial<DeepTask> | null)?.done instanceof Int32Array) return undefined;
  const done = new Int32Array(new SharedArrayBuffer(4));
  const { port1, port2 } = new MessageChannel();
  const worker = new Worker(new URL('./deep-call-thread.js', import.meta.url), {
    workerData: { name, text, options, done, port: port2 } satisfies DeepTask,
    transferList: [port2],
    resourceLimits: { stackSizeMb: stackSize },
  });
  // Without a listener, running out of memory there would end this program.
  worker.on('error', () => undefined);
  Atomics.wait(done, 0, 0, longest);
  const answer = receiveMessageOnPort(port1) as { message: Result | undefined } | undefined;
  port1.close();
  void worker.terminate();
  return answer?.message;
}
