import type { Diagnostic } from '../diagnostics/index.js';
import type { SavedFile } from '../files/file-table.js';
import type { Plan } from '../plan/plan.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { Encoding } from '../config/settings.js';
import type { StepCatalogue } from '../config/steps.js';
import type { PictureVariants } from '../languages/html/picture-variants.js';
import type { NamedPipeline } from '../build/output-naming.js';
import type { NamedOutput } from '../naming/named-output.js';
import { writeJsonCache, readJsonCache } from './json-cache.js';
import type {
  Cause,
  Digest,
  EmittedOutputs,
  JobMemo,
  OutputFile,
  PipelineMemo,
  UnitId,
  UnitMemo,
} from '../build/memo.js';
import type { AssetRef, Read } from './trace.js';

/** Raised for incompatible changes of the format. */
const stateVersion = 15;

/** The state of a profile after a build: the next build only checks that it is still current. */
export interface BuildState {
  /** The hash of the project file and the versions of tools. */
  readonly configHash: string;
  /** The folders that were read for the plan, with their digests. */
  readonly folders: Readonly<Record<string, string>>;
  readonly plan: Plan;
  readonly files: readonly SavedFile[];
  readonly pipelines: ReadonlyMap<string, PipelineMemo>;
  /** The named outputs of each pipeline, where outputs are named by their content. */
  readonly named: ReadonlyMap<string, NamedPipeline>;
  /** The number of the last build. */
  readonly build: number;
}

/** Saves a state. */
export function saveState(path: string, state: BuildState): void {
  const reads = new Interned<Read>((read) => read.join(' '));
  const pipelines = [...state.pipelines].map(([name, memo]) => [name, encodeMemo(memo, reads)]);
  const plan = { ...state.plan, root: '', pipelines: state.plan.pipelines.map(encodePipeline) };
  const named = [...state.named].map(([name, outputs]) => [name, [...outputs].map(encodeNamed)]);
  writeJsonCache(path, stateVersion, { ...state, plan, pipelines, named, reads: reads.values });
}

/** Loads the state of an earlier build; undefined if there is none or it cannot be used. */
export function loadState(path: string, root: string, catalogue: StepCatalogue): BuildState | undefined {
  const state = readJsonCache(path, stateVersion) as EncodedState | undefined;
  if (!state) return undefined;
  const pipelines = state.plan.pipelines.map((one) => decodePipeline(one, catalogue));
  if (!pipelines.every((one) => one !== undefined)) return undefined;
  return {
    ...state,
    plan: { ...state.plan, root, pipelines },
    pipelines: new Map(state.pipelines.map(([name, memo]) => [name, decodeMemo(memo, state.reads)])),
    named: new Map(state.named.map(([name, outputs]) => [name, new Map(outputs.map(decodeNamed))])),
  };
}

/** Interns values, so that each is written once and referred to by its number. */
class Interned<T> {
  readonly values: T[] = [];
  readonly #numbers = new Map<string, number>();

  constructor(private readonly keyOf: (value: T) => string) {}

  number(value: T): number {
    const key = this.keyOf(value);
    const known = this.#numbers.get(key);
    if (known !== undefined) return known;
    this.#numbers.set(key, this.values.length);
    return this.values.push(value) - 1;
  }
}

interface EncodedState extends Omit<BuildState, 'plan' | 'pipelines' | 'named'> {
  readonly plan: Omit<Plan, 'pipelines'> & { readonly pipelines: readonly EncodedPipeline[] };
  readonly pipelines: readonly (readonly [string, EncodedMemo])[];
  readonly named: readonly (readonly [string, readonly EncodedNamed[]])[];
  readonly reads: readonly Read[];
}

type EncodedPipeline = Omit<PlannedPipeline, 'steps' | 'sources'> & {
  readonly steps: readonly (Omit<ConfiguredStep, 'definition'> & { readonly definition: string })[];
  readonly sources: readonly (readonly [path: string, target: string])[];
};

function encodePipeline(pipeline: PlannedPipeline): EncodedPipeline {
  return {
    ...pipeline,
    steps: pipeline.steps.map((step) => ({ ...step, definition: step.definition.name })),
    sources: pipeline.sources.map(({ path, target }) => [path, target]),
  };
}

function decodePipeline(pipeline: EncodedPipeline, catalogue: StepCatalogue): PlannedPipeline | undefined {
  const steps = pipeline.steps.map((step) => {
    const definition = catalogue.steps.find((one) => one.name === step.definition);
    return definition && { ...step, definition };
  });
  if (!steps.every((step) => step !== undefined)) return undefined;
  return { ...pipeline, steps, sources: pipeline.sources.map(([path, target]) => ({ path, target })) };
}

type EncodedAsset = readonly [
  id: string,
  path: string,
  hash: string,
  origins: readonly string[],
  isPristine: 0 | 1,
  map?: string | null,
  known?: Pick<AssetRef, 'references' | 'linked' | 'variants'>,
];
type EncodedUnit = readonly [
  id: UnitId,
  segment: number,
  input: Digest,
  inputs: readonly string[],
  jobs: readonly (readonly [step: string, reads: readonly number[]])[],
  assets: readonly EncodedAsset[],
  diagnostics: readonly Diagnostic[],
  build: number,
  cause: Cause,
];
type EncodedOutput = readonly [
  path: string,
  hash: string,
  bytes: number,
  gzipBytes: number | undefined,
  origins: readonly string[],
  encoding?: Encoding,
];

interface EncodedMemo {
  readonly key: string;
  readonly units: readonly EncodedUnit[];
  readonly finished: readonly (readonly [
    asset: string,
    input: Digest,
    outputs: readonly EncodedOutput[],
    known: Pick<EmittedOutputs, 'references' | 'variants'>,
  ])[];
}

function encodeMemo({ key, units, emitted }: PipelineMemo, reads: Interned<Read>): EncodedMemo {
  return {
    key,
    units: [...units].map(([id, { segment, input, inputs, jobs, assets, diagnostics, build, cause }]) => [
      id,
      segment,
      input,
      inputs,
      jobs.map((job) => [job.step, job.reads.map((read) => reads.number(read))]),
      assets.map(encodeAsset),
      diagnostics,
      build,
      cause,
    ]),
    finished: [...emitted].map(([asset, { input, outputs, references, variants }]) => [
      asset,
      input,
      outputs.map(encodeOutput),
      { ...(references && { references }), ...(variants && { variants }) },
    ]),
  };
}

function decodeMemo({ key, units, finished }: EncodedMemo, reads: readonly Read[]): PipelineMemo {
  return {
    key,
    units: new Map(
      units.map(([id, segment, input, inputs, jobs, assets, diagnostics, build, cause]): [UnitId, UnitMemo] => [
        id,
        {
          segment,
          input,
          inputs,
          jobs: jobs.map(([step, numbers]): JobMemo => ({ step, reads: numbers.map((number) => reads[number]!) })),
          assets: assets.map(decodeAsset),
          diagnostics,
          build,
          cause,
        },
      ]),
    ),
    emitted: new Map(
      finished.map(([asset, input, outputs, known]): [string, EmittedOutputs] => [
        asset,
        { input, outputs: outputs.map(decodeOutput), ...known },
      ]),
    ),
  };
}

function encodeAsset({ id, path, hash, origins, isPristine, map, ...known }: AssetRef): EncodedAsset {
  const head = [id, path, hash, origins, isPristine ? 1 : 0] as const;
  if (Object.keys(known).length > 0) return [...head, map ?? null, known];
  return map === undefined ? head : [...head, map];
}

function decodeAsset([id, path, hash, origins, isPristine, map, known]: EncodedAsset): AssetRef {
  return { id, path, hash, origins, isPristine: isPristine === 1, ...(typeof map === 'string' && { map }), ...known };
}

function encodeOutput({ path, hash, bytes, gzipBytes, origins, encoding }: OutputFile): EncodedOutput {
  return encoding ? [path, hash, bytes, gzipBytes, origins, encoding] : [path, hash, bytes, gzipBytes, origins];
}

function decodeOutput([path, hash, bytes, gzipBytes, origins, encoding]: EncodedOutput): OutputFile {
  return { path, hash, bytes, gzipBytes, origins, ...(encoding && { encoding }) };
}

type EncodedNamed = readonly [
  path: string,
  key: string,
  outputs: readonly EncodedOutput[],
  unchanged: readonly number[],
  refused: readonly number[],
  variants?: PictureVariants,
];

function encodeNamed([path, one]: readonly [string, NamedOutput]): EncodedNamed {
  const { key, outputs, unchanged, refused, variants } = one;
  const head = [path, key, outputs.map(encodeOutput), unchanged, refused] as const;
  return variants ? [...head, variants] : head;
}

function decodeNamed([path, key, outputs, unchanged, refused, variants]: EncodedNamed): [string, NamedOutput] {
  return [path, { key, outputs: outputs.map(decodeOutput), unchanged, refused, ...(variants && { variants }) }];
}
