import type { JobExecutor } from '../execute/job-executor.js';
import { byCodeUnits } from '../files/globs.js';
import { sentSize, type LimitedOutput } from './limits.js';
import type { PipelineBuild } from './pipeline-build.js';

/** The number of sources that are named of an output. */
const named = 2;

/** The outputs of pipelines, before naming, with the sizes that they have when they are sent. */
export async function limitedOutputs(
  builds: readonly PipelineBuild[],
  { contents, gzipSizes, inputs }: JobExecutor,
): Promise<readonly LimitedOutput[]> {
  await gzipSizes.settled();
  const found: LimitedOutput[] = [];
  for (const { made, pipeline } of builds.filter((build) => build.pipeline.isPublished))
    for (const [id, { outputs }] of made.emitted) {
      const [output] = outputs;
      if (!output) continue;
      const { path, hash, origins, gzipBytes } = output;
      const bytes =
        gzipBytes === undefined ? (contents.get(hash, origins[0]) ?? inputs.files.read(path)?.bytes) : undefined;
      const size = gzipBytes ?? (bytes ? await sentSize(path, bytes) : output.bytes);
      const linked = made.assets.find((asset) => asset.id === id)?.linked ?? [];
      const largest = [...linked]
        .sort((a, b) => b.length - a.length || byCodeUnits(a.source, b.source))
        .slice(0, named)
        .map(({ source }) => source);
      found.push({ path, gzipBytes: size, ...(pipeline.steps.length > 0 && largest.length > 1 && { largest }) });
    }
  return found;
}
