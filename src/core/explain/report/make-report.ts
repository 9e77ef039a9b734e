import { promisify } from 'node:util';
import { brotliCompress, constants, gzip } from 'node:zlib';
import type { Asset } from '../../assets/asset.js';
import { BuildExecutor } from '../../build/build-executor.js';
import { kindOfOutput, type BuildHistory } from '../../build/history.js';
import { measureLimits } from '../../build/limits.js';
import { mapWithLimit } from '../../build/map-with-limit.js';
import type { EmittedOutputs, OutputFile, PipelineMemo } from '../../build/memo.js';
import { assetWithMap } from '../../build/pipeline.js';
import type { PipelineRun } from '../../build/pipeline-run.js';
import { stepSettings } from '../../build/step-settings.js';
import { executingSteps } from '../../config/executing-steps.js';
import type { JobExecutor } from '../../execute/job-executor.js';
import { byCodeUnits } from '../../files/globs.js';
import { formatOf, kindOf } from '../../languages/formats.js';
import { variantsUnder } from '../../languages/html/picture-variants.js';
import { manifestPath } from '../../plan/naming.js';
import { outputForm, type PlannedPipeline } from '../../plan/pipeline.js';
import type { Knowledge } from '../why.js';
import { partsOf } from './composition.js';
import { findDuplicates } from './duplicates.js';
import { findPageLoads, type SiteFile } from './pages.js';
import type { OutputPart, ReportedOutput, SiteReport, Sizes } from './site-report.js';

const compress = promisify(brotliCompress);
const compressGzip = promisify(gzip);

/** The quality that servers compress with for each request; the best one takes a hundred times as long. */
const brotliQuality = 5;

/** Everything that a report is made from. */
export interface ReportRequest extends Knowledge {
  readonly history: BuildHistory;
  readonly executor: JobExecutor;
  readonly signal: AbortSignal;
}

/** Reports what the outputs of the last build are made of, what pages load, and what builds did. */
export async function makeReport(request: ReportRequest): Promise<SiteReport> {
  const { plan, memos, history, executor } = request;
  await executor.store();
  const files = new Map<string, SiteFile>();
  const hashes = new Map<string, string>();
  const outputs: ReportedOutput[] = [];
  for (const pipeline of plan.pipelines.filter(({ isPublished }) => isPublished)) {
    const memo = memos.get(pipeline.name);
    if (!memo) continue;
    await mapWithLimit([...memo.emitted], async ([id, emitted]) => {
      const [main] = emitted.outputs;
      if (!main) return;
      const published = request.named.get(pipeline.name)?.get(main.path)?.outputs ?? emitted.outputs;
      const [{ path, hash }] = published as [OutputFile];
      // A build that was blocked, or failed, did not publish it.
      if (!executor.inputs.files.exists(path)) return;
      const bytes = (): Uint8Array | undefined => executor.inputs.files.read(path)?.bytes;
      const sizes = await sizesOf(published, bytes);
      outputs.push({
        path,
        pipeline: pipeline.name,
        beside: published.slice(1).map((one) => one.path),
        kind: kindOfOutput(path),
        ...sizes,
        parts: await partsOfOutput(id, emitted, sizes.bytes, pipeline, memo, request),
      });
      hashes.set(path, hash);
      const variants = emitted.variants && variantsUnder(pipeline.to, emitted.variants);
      const { references } = emitted;
      files.set(main.path, { published: path, sizes, references, bytes, ...(variants && { variants }) });
    });
  }
  outputs.sort((a, b) => b.bytes - a.bytes || byCodeUnits(a.path, b.path));
  const sorted = new Map([...files].sort(([a], [b]) => byCodeUnits(a, b)));
  return {
    profile: plan.profile.name,
    outputs,
    ...(request.named.size > 0 && request.isPublished(manifestPath(plan)) && { manifest: manifestPath(plan) }),
    duplicates: findDuplicates(outputs, hashes),
    pages: findPageLoads(sorted, plan.site),
    limits: measureLimits(
      plan.limits,
      [...sorted].map(([path, { sizes }]) => ({ path, gzipBytes: sizes.gzipBytes })),
    ).map(({ of, bytes, gzipBytes }) => ({ of, limit: bytes, gzipBytes })),
    ...history,
    pipelines: plan.pipelines.map(({ name, dependsOn }) => ({ name, waitsFor: dependsOn.map(({ on }) => on) })),
  };
}

/** The sizes of an output; compressed copies beside it say how large it is when it is sent. */
async function sizesOf(outputs: readonly OutputFile[], bytes: () => Uint8Array | undefined): Promise<Sizes> {
  const [main] = outputs as [OutputFile];
  const copy = (encoding: 'gzip' | 'br'): number | undefined => outputs.find((one) => one.encoding === encoding)?.bytes;
  const isCompressed = formatOf(main.path)?.isCompressed === true;
  const content = isCompressed || copy('br') !== undefined ? undefined : bytes();
  const gzipped = content && main.gzipBytes === undefined ? (await compressGzip(content)).length : undefined;
  const brotli = content && (await compress(content, { params: { [constants.BROTLI_PARAM_QUALITY]: brotliQuality } }));
  return {
    bytes: main.bytes,
    gzipBytes: copy('gzip') ?? main.gzipBytes ?? gzipped ?? main.bytes,
    brotliBytes: copy('br') ?? brotli?.length ?? main.bytes,
  };
}

async function partsOfOutput(
  id: string,
  { outputs: [output] }: EmittedOutputs,
  bytes: number,
  pipeline: PlannedPipeline,
  memo: PipelineMemo,
  request: ReportRequest,
): Promise<readonly OutputPart[]> {
  const { origins = [] } = output ?? {};
  const last = [...memo.units.values()].toSorted((a, b) => b.segment - a.segment);
  const ref = last.flatMap(({ assets }) => assets).find((asset) => asset.id === id);
  const bare: Asset = { id, path: output?.path ?? id, bytes: new Uint8Array(), origins, isPristine: false };
  if (!ref) return partsOf(bare, bytes);
  if (ref.linked) return partsOf({ ...bare, linked: ref.linked }, bytes);
  // Commands and functions of the project are only run by builds.
  const isExecuting = pipeline.steps.some(({ definition }) => executingSteps.has(definition.name));
  if (kindOf(ref.path) === 'other' || ref.isPristine || isExecuting) return partsOf(bare, bytes);
  const run = runOf(pipeline, memo, request);
  const asset = await run.executor.asset(await assetWithMap(pipeline, run, ref));
  return partsOf(asset ?? bare, bytes);
}

/** A run of a pipeline for assets with maps, which shows nothing. */
function runOf(
  pipeline: PlannedPipeline,
  memo: PipelineMemo,
  { plan, executor, signal, build }: ReportRequest,
): PipelineRun {
  return {
    pipeline,
    executor: new BuildExecutor(executor),
    settings: stepSettings(plan, pipeline),
    form: outputForm(pipeline, plan.profile, plan.namedBrowsers, false),
    signal,
    memo,
    build,
  };
}
