import { readJsonCache, writeJsonCache } from '../cache/json-cache.js';
import { formatOf } from '../languages/formats.js';
import type { BuildReport, JobCount, JobRun } from './report.js';

/** The number and the sizes of outputs of one kind. */
export interface KindSize {
  readonly files: number;
  readonly bytes: number;
  readonly gzipBytes: number;
}

/** The kinds of outputs that sizes are added up for. */
export const outputKinds = ['page', 'style', 'script', 'image', 'font', 'other'] as const;

/** A kind of output. */
export type OutputKind = (typeof outputKinds)[number];

/** A build that changed something. */
export interface PastBuild {
  /** When it ended, in ISO 8601. */
  readonly time: string;
  readonly milliseconds: number;
  readonly jobs: JobCount;
  readonly sizes: Readonly<Partial<Record<OutputKind, KindSize>>>;
}

/** The recorded builds of a profile. */
export interface BuildHistory {
  /** The latest last. */
  readonly builds: readonly PastBuild[];
  /** The jobs of the latest, in the order in which they began. */
  readonly jobs: readonly JobRun[];
  /** The number of further jobs, which were short. */
  readonly omitted: number;
}

const historyVersion = 1;

/** The number of builds that are remembered. */
const maxBuilds = 50;

/** The number of jobs that are remembered, the longest. */
const maxJobs = 2000;

/** The kind of an output. */
export function kindOfOutput(path: string): OutputKind {
  const kind = formatOf(path)?.kind;
  return outputKinds.find((one) => one === kind) ?? 'other';
}

/** Reads the history of a profile; empty if there is none. */
export function readHistory(path: string): BuildHistory {
  return (readJsonCache(path, historyVersion) as BuildHistory | undefined) ?? { builds: [], jobs: [], omitted: 0 };
}

/** Adds a build to the history of a profile. */
export function addToHistory(path: string, report: BuildReport, ran: readonly JobRun[]): void {
  const sizes: Partial<Record<OutputKind, KindSize>> = {};
  for (const { path: output, bytes, gzipBytes = 0, encoding } of report.pipelines.flatMap(({ outputs }) => outputs)) {
    if (encoding !== undefined || output.endsWith('.map')) continue;
    const kind = kindOfOutput(output);
    const sum = sizes[kind] ?? { files: 0, bytes: 0, gzipBytes: 0 };
    sizes[kind] = { files: sum.files + 1, bytes: sum.bytes + bytes, gzipBytes: sum.gzipBytes + gzipBytes };
  }
  const { milliseconds, jobs } = report;
  const build = { time: new Date().toISOString(), milliseconds, jobs, sizes };
  const longest = [...ran].sort((a, b) => b.milliseconds - a.milliseconds).slice(0, maxJobs);
  writeJsonCache(path, historyVersion, {
    builds: [...readHistory(path).builds, build].slice(-maxBuilds),
    jobs: longest.sort((a, b) => a.start - b.start),
    omitted: ran.length - longest.length,
  } satisfies BuildHistory);
}
