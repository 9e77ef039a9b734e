import { globTest } from '../files/globs.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import { isOfFile } from '../cache/trace.js';
import type { PipelineMemo } from './memo.js';

/** A test of paths, relative to the project. */
export type PathTest = (path: string) => boolean;

/** A test for paths that a pipeline reads: its sources, and everything in the traces of its last evaluation. */
export function readTest({ sources }: PlannedPipeline, memo: PipelineMemo | undefined): PathTest {
  const paths = new Set(sources.map(({ path }) => path));
  const globs = new Set<string>();
  for (const { jobs } of memo?.units.values() ?? [])
    for (const { reads } of jobs)
      for (const read of reads)
        if (read[0] === 'list') globs.add(read[1]);
        else if (isOfFile(read)) paths.add(read[1]);
  const tests = [...globs].map(globTest);
  return (path) => paths.has(path) || tests.some((test) => test(path));
}
