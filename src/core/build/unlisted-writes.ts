import { globTest } from '../files/globs.js';
import { claimIndexOf } from '../plan/claims.js';
import type { Plan } from '../plan/plan.js';
import type { BuildRequest } from './build-request.js';

/** What is known before and after commands have run that may have written sources. */
interface WrittenRequest extends Pick<BuildRequest, 'memos' | 'outputRoot'> {
  readonly before: Plan;
  readonly plan: Plan;
  /** Known files that are different now. */
  readonly changed: readonly string[];
  /** The pipelines before another that run code of the project. */
  readonly codeBefore: (pipeline: string) => readonly string[];
  /** The pipelines that a file was already found for; it gets those of this result. */
  readonly reported: Set<string>;
}

/** A file that a command has written without saying so, and a pipeline that reads it. */
export interface UnlistedWrite {
  readonly pipeline: string;
  readonly path: string;
  readonly reader: string;
}

/** Finds files that commands have written and that pipelines after them read; one for each of these. */
export function unlistedWrites({
  before,
  plan,
  changed,
  codeBefore,
  memos,
  outputRoot,
  reported,
}: WrittenRequest): UnlistedWrite[] {
  const claims = claimIndexOf(plan.pipelines);
  return plan.pipelines.flatMap(({ name: reader, sources }): UnlistedWrite[] => {
    const names = codeBefore(reader);
    const steps = plan.pipelines
      .filter(({ name }) => names.includes(name))
      .flatMap((one) => one.steps.map((step) => ({ pipeline: one.name, step })));
    const writers = steps.filter(({ step }) => step.definition.writesSources !== undefined);
    if (writers.length === 0 || reported.has(reader)) return [];
    const tests = writers
      .flatMap(({ step: { definition, options } }) => definition.writesSources!(options))
      .map((glob) => globTest(glob));
    const known = new Set(before.pipelines.find(({ name }) => name === reader)?.sources.map(({ path }) => path));
    const units = [...(memos.get(reader)?.units.values() ?? [])];
    const read = new Set([
      ...sources.map(({ path }) => path),
      ...units.flatMap(({ jobs }) => jobs.flatMap((job) => job.reads.map(([, path]) => path))),
    ]);
    const written = [
      ...sources.flatMap(({ path }) => (known.has(path) ? [] : [path])),
      ...changed.filter((path) => read.has(path)),
    ];
    const path = written.find(
      (one) =>
        claims.ownerOf(one) === undefined && !outputRoot.record.outputs.has(one) && !tests.some((test) => test(one)),
    );
    if (path === undefined) return [];
    reported.add(reader);
    return [{ pipeline: writers[0]!.pipeline, path, reader }];
  });
}
