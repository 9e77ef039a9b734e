import { spawnSync } from 'node:child_process';

/** One line of the report: a figure that is a ratio to a reference taken in the same run. */
export interface Row {
  readonly what: string;
  readonly reference: string;
  /** The ratio of each round. */
  readonly ratios: readonly number[];
  /** The maximum, if the design sets a bar. */
  readonly bar?: number;
  /** Absolute figures that explain the ratio. */
  readonly note?: string;
}

/** A number of faults: one line of the report, which fails the run unless it is 0. */
export interface Count {
  readonly what: string;
  readonly wrong: number;
  /** The first fault. */
  readonly note?: string | undefined;
}

/** Options of rows that use random input. */
export interface Chance {
  /** The same seed makes the same things. */
  readonly seed: number;
  /** The number of repetitions relative to the default. */
  readonly times: number;
}

/** The median of numbers. */
export function median(values: readonly number[]): number {
  const sorted = values.toSorted((a, b) => a - b);
  const middle = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[middle]! : (sorted[middle - 1]! + sorted[middle]!) / 2;
}

/**
 * Times two actions alternately, so that changes in the speed of the machine affect both. The first round is not
 * counted.
 *
 * @returns for each, its milliseconds round by round
 */
export async function inTurns(
  rounds: number,
  ours: () => unknown,
  reference: () => unknown,
): Promise<{ ours: number[]; reference: number[] }> {
  const times = { ours: [] as number[], reference: [] as number[] };
  for (let round = 0; round <= rounds; round++) {
    const first = await time(ours);
    const second = await time(reference);
    if (round === 0) continue;
    times.ours.push(first);
    times.reference.push(second);
  }
  return times;
}

/** Ratios round by round, with the medians of both sides as a note. */
export function ratiosOf({
  ours,
  reference,
}: {
  ours: readonly number[];
  reference: readonly number[];
}): Pick<Row, 'ratios' | 'note'> {
  return {
    ratios: ours.map((value, round) => value / reference[round]!),
    note: `${median(ours).toFixed(0)} ms beside ${median(reference).toFixed(0)} ms`,
  };
}

async function time(work: () => unknown): Promise<number> {
  const started = performance.now();
  await work();
  return performance.now() - started;
}

/** Runs a whole process; throws if it fails. */
export function runProcess(args: readonly string[], { folder, cores }: { folder?: string; cores?: string } = {}): void {
  const command =
    cores === undefined ? [process.execPath, ...args] : ['taskset', '-c', cores, process.execPath, ...args];
  const { status, stderr, error } = spawnSync(command[0]!, command.slice(1), { cwd: folder, encoding: 'utf8' });
  if (error) throw error;
  if (status !== 0) throw new Error(`${command.join(' ')} ended with ${String(status)}: ${stderr}`);
}

/** Reports whether processes can be bound to one core. */
export function canPin(): boolean {
  return spawnSync('taskset', ['-c', '0', 'true']).status === 0;
}
