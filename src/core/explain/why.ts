import type { LinkedPart } from '../assets/asset.js';
import { fail, nearestWord } from '../diagnostics/index.js';
import { byCodeUnits } from '../files/globs.js';
import { hasHashedNames, manifestPath } from '../plan/naming.js';
import type { Plan } from '../plan/plan.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { NamedPipeline } from '../build/output-naming.js';
import type { Inputs } from '../build/inputs.js';
import {
  unitId,
  type Cause,
  type EmittedOutputs,
  type OutputFile,
  type PipelineMemo,
  type UnitMemo,
} from '../build/memo.js';
import { segmentsOf } from '../build/segments.js';
import { variantsUnder } from '../languages/html/picture-variants.js';
import { targetPaths } from '../languages/references/reference.js';
import { isOfFile, type Read } from '../cache/trace.js';

/** A source of an output, and whether it is unchanged. */
export interface UsedFile {
  readonly path: string;
  readonly isChanged: boolean;
  /** The pipeline that writes it, when it is an output itself. */
  readonly madeBy?: string;
}

/** The part of one step in an output. */
export interface UsedStep {
  readonly step: string;
  readonly options: object;
  /** Files that it read. */
  readonly files: readonly UsedFile[];
  /** Missing files that were looked up: if they existed, they would be read. */
  readonly missing: readonly UsedFile[];
}

/** All files that contribute to an output. */
export interface OutputReasons {
  readonly kind: 'output';
  readonly path: string;
  /** The path under which it is published, with a hash of its content, if it is another one. */
  readonly publishedAs?: string;
  readonly pipeline: string;
  readonly profile: string;
  readonly sources: readonly UsedFile[];
  readonly steps: readonly UsedStep[];
  /** The modules that are linked into it, the largest first. */
  readonly modules: readonly LinkedPart[];
  /** The outputs that it refers to by URLs. */
  readonly refersTo: readonly string[];
  /** The outputs that refer to it by URLs. */
  readonly referencedBy: readonly string[];
  readonly settings: { readonly browsers: readonly string[]; readonly constants: object; readonly maps: string };
  readonly bytes: number;
  /** True if the last build produced it, and the reason why it was last produced. */
  readonly isNew: boolean;
  readonly cause: Cause;
  /** The file on disk: unchanged since the last build, modified, or missing. */
  readonly onDisk: 'unchanged' | 'modified' | 'missing';
}

/** Every output that a file reaches. */
export interface SourceReach {
  readonly kind: 'source';
  readonly path: string;
  readonly profile: string;
  readonly isChanged: boolean;
  readonly outputs: readonly ReachedOutput[];
}

/** An output that a file reaches. */
export interface ReachedOutput {
  readonly path: string;
  readonly pipeline: string;
  /** The step that reads the file, if it is not a source of the pipeline. */
  readonly step?: string;
  /** The output of another pipeline through which it reaches this one. */
  readonly by?: string;
}

/** The state of a project after the last build. */
export interface Knowledge {
  readonly plan: Plan;
  readonly memos: ReadonlyMap<string, PipelineMemo>;
  readonly inputs: Inputs;
  /** The named outputs of each pipeline, where outputs are named by their content. */
  readonly named: ReadonlyMap<string, NamedPipeline>;
  /** The number of the last build. */
  readonly build: number;
  /** Reports whether a file is published, by whatever build. */
  readonly isPublished: (path: string) => boolean;
}

/**
 * Explains a path: the sources of an output, or the outputs that depend on another file.
 *
 * @throws DiagnosticError if no build knows the path
 */
export function explain(asked: string, knowledge: Knowledge): OutputReasons | SourceReach {
  const { plan, memos } = knowledge;
  const path = pathBefore(asked, knowledge.named);
  for (const [pipeline, memo] of memos) {
    for (const { outputs } of memo.emitted.values()) {
      const output = outputs.find((one) => one.path === path);
      if (output) return reasonsOf(output, pipeline, memo, knowledge);
    }
  }
  if (isManifest(path, knowledge)) return manifestReasons(path, knowledge);
  const known = knownFiles(knowledge);
  if (!known.has(path)) {
    const outputs = [...memos.values()].flatMap((memo) => [...memo.emitted.values()].flatMap((one) => one.outputs));
    const near = nearestPath(path, [...outputs.map((output) => output.path), ...known]);
    fail('why-unknown', { path, profile: plan.profile.name, near, isPublished: knowledge.isPublished(path) });
  }
  return reachOf(path, knowledge);
}

/** Reports whether a path is that of the manifest of published names. */
const isManifest = (path: string, { plan, named, isPublished }: Knowledge): boolean =>
  path === manifestPath(plan) && named.size > 0 && isPublished(path);

/** The manifest is made from all outputs of pipelines with hashed names, and is written with those of the first one. */
function manifestReasons(path: string, { plan, named, inputs }: Knowledge): OutputReasons {
  const sources = [...named].flatMap(([madeBy, outputs]) =>
    [...outputs.values()].map(({ outputs: [main] }) => ({ path: main!.path, isChanged: false, madeBy })),
  );
  const { browsers, profile } = plan;
  return {
    kind: 'output',
    path,
    pipeline: plan.pipelines.find((one) => hasHashedNames(one, plan))!.name,
    profile: profile.name,
    sources: sources.sort((a, b) => byCodeUnits(a.path, b.path)),
    ...{ steps: [], modules: [], refersTo: [], referencedBy: [] },
    settings: { browsers, constants: profile.constants, maps: profile.maps },
    bytes: inputs.files.read(path)?.bytes.length ?? 0,
    isNew: false,
    cause: { kind: 'changed', paths: [] },
    onDisk: inputs.files.exists(path) ? 'unchanged' : 'missing',
  };
}

/** The path of an output before naming; others stay. */
function pathBefore(path: string, named: Knowledge['named']): string {
  for (const outputs of named.values())
    for (const [before, one] of outputs) if (one.outputs.some((output) => output.path === path)) return before;
  return path;
}

/** The known path that was most likely intended: one with the same ending, or else the nearest one. */
function nearestPath(path: string, known: readonly string[]): string | undefined {
  const name = path.slice(path.lastIndexOf('/') + 1);
  return (
    known.find((one) => one.endsWith(`/${path}`)) ??
    nearestWord(path, known) ??
    known.find((one) => one.slice(one.lastIndexOf('/') + 1) === name)
  );
}

function reasonsOf(
  output: OutputFile,
  pipeline: string,
  memo: PipelineMemo,
  { plan, inputs, memos, named, build }: Knowledge,
): OutputReasons {
  const { path } = output;
  const published = named.get(pipeline)?.get(path)?.outputs[0] ?? output;
  const planned = plan.pipelines.find((one) => one.name === pipeline)!;
  const target = [...memo.emitted].find(([, one]) => one.outputs.some((output) => output.path === path))![0];
  const units = unitsBehind(target, memo, segmentsOf(planned).length);
  const used = (file: string): UsedFile => ({
    path: file,
    isChanged: isChangedFile(file, units, memo, inputs),
    ...madeBy(file, memos, pipeline),
  });
  const origins = new Set(memo.emitted.get(target)!.outputs.flatMap((output) => output.origins));
  const jobs = units.flatMap((unit) => unit.jobs);
  const onDisk = inputs.files.state(published.path);
  const latest = units.reduce<UnitMemo | undefined>(
    (last, unit) => (last && last.build >= unit.build ? last : unit),
    undefined,
  );
  return {
    kind: 'output',
    path,
    ...(published.path !== path && { publishedAs: published.path }),
    pipeline,
    profile: plan.profile.name,
    sources: [...origins].map(used),
    steps: planned.steps.map(({ definition, options }) => {
      const reads = jobs.filter((job) => job.step === definition.name).flatMap((job) => job.reads);
      const isFound = (read: Read): boolean => isOfFile(read) && read[2] !== null && read[2] !== false;
      return {
        step: definition.name,
        options,
        files: unique(reads.filter(isFound)).map(used),
        missing: unique(reads.filter((read) => !isFound(read) && isOfFile(read))).map(used),
      };
    }),
    modules: (
      units.flatMap((unit) => unit.assets).find(({ id, linked }) => id === target && linked)?.linked ?? []
    ).toSorted((a, b) => b.length - a.length || byCodeUnits(a.source, b.source)),
    ...referencesOf(path, plan, memos),
    settings: { browsers: plan.browsers, constants: plan.profile.constants, maps: plan.profile.maps },
    bytes: published.bytes,
    isNew: latest?.build === build,
    cause: latest?.cause ?? { kind: 'first', paths: [] },
    onDisk: onDisk === published.hash ? 'unchanged' : onDisk === null ? 'missing' : 'modified',
  };
}

/** The outputs that an output refers to, and those that refer to it. */
function referencesOf(
  path: string,
  { site, pipelines }: Plan,
  memos: ReadonlyMap<string, PipelineMemo>,
): Pick<OutputReasons, 'refersTo' | 'referencedBy'> {
  const emitted = [...memos.values()].flatMap((memo) => [...memo.emitted.values()]);
  const outputs = new Set(emitted.flatMap((one) => one.outputs.map((output) => output.path)));
  const variants = new Map(
    pipelines.flatMap(({ name, to }) =>
      [...(memos.get(name)?.emitted.values() ?? [])].flatMap((one) => variantsOf(one, to)),
    ),
  );
  const refersTo = new Set<string>();
  const referencedBy = new Set<string>();
  for (const {
    outputs: [from],
    references,
  } of emitted)
    for (const reference of references?.references ?? []) {
      const found = from && targetPaths(reference, from.path, site).find((one) => outputs.has(one));
      if (found === undefined) continue;
      const offered = reference.image ? (variants.get(found) ?? []) : [];
      for (const one of [found, ...offered.filter((variant) => outputs.has(variant))]) {
        if (from!.path === path) refersTo.add(one);
        if (one === path) referencedBy.add(from!.path);
      }
    }
  return { refersTo: [...refersTo].sort(byCodeUnits), referencedBy: [...referencedBy].sort(byCodeUnits) };
}

/** A picture, and its variants, by paths relative to the project. */
function variantsOf({ outputs: [main], variants }: EmittedOutputs, to: string): [string, readonly string[]][] {
  if (!main || !variants) return [];
  const files = variantsUnder(to, variants).sets.flatMap(({ candidates }) => candidates.map(({ path }) => path));
  return [[main.path, files]];
}

/** The units that an asset went through, from the last back to its sources. */
function unitsBehind(target: string, memo: PipelineMemo, segments: number): UnitMemo[] {
  const found: UnitMemo[] = [];
  let wanted = new Set([target]);
  for (let index = segments - 1; index >= 0; index--) {
    const earlier = new Set<string>();
    // The memo is in the order of execution, which differs between builds.
    for (const [, unit] of [...memo.units].sort(([a], [b]) => byCodeUnits(a, b))) {
      if (unit.segment !== index || !unit.assets.some((asset) => wanted.has(asset.id))) continue;
      found.push(unit);
      for (const input of unit.inputs) earlier.add(input);
    }
    wanted = new Set([...wanted, ...earlier]);
  }
  return found.reverse();
}

function readsOf(units: Iterable<UnitMemo>): Read[] {
  return [...units].flatMap((unit) => unit.jobs.flatMap((job) => job.reads));
}

function unique(reads: readonly Read[]): string[] {
  return [...new Set(reads.map(([, path]) => path))].sort();
}

function isChangedFile(file: string, units: readonly UnitMemo[], memo: PipelineMemo, inputs: Inputs): boolean {
  const reads = readsOf(units).filter((read) => isOfFile(read) && read[1] === file);
  if (reads.some((read) => !inputs.isCurrent(read))) return true;
  const unit = memo.units.get(unitId(0, file));
  if (unit) return unit.input !== `${inputs.files.state(file) ?? ''} ${file}`;
  // A copy: its hash is that of its source.
  const copies = [...memo.emitted.values()].filter((one) => one.input.endsWith(` ${file}`));
  return copies.some((one) => one.input !== `${inputs.files.state(file) ?? ''} ${file}`);
}

function madeBy(file: string, memos: ReadonlyMap<string, PipelineMemo>, self: string): { madeBy?: string } {
  for (const [name, memo] of memos) {
    if (name === self) continue;
    for (const one of memo.emitted.values())
      if (one.outputs.some((output) => output.path === file)) return { madeBy: name };
  }
  return {};
}

/** All files that some pipeline reads or looks up. */
function knownFiles({ plan, memos }: Knowledge): Set<string> {
  const known = new Set(plan.pipelines.flatMap((pipeline) => pipeline.sources.map((source) => source.path)));
  for (const memo of memos.values())
    for (const read of readsOf(memo.units.values())) if (isOfFile(read)) known.add(read[1]);
  return known;
}

function reachOf(path: string, knowledge: Knowledge): SourceReach {
  const { plan, memos, inputs } = knowledge;
  const outputs = new Map<string, ReachedOutput>();
  const isChanged = [...memos.values()].some((memo) => isChangedFile(path, [...memo.units.values()], memo, inputs));
  const follow = (file: string): void => {
    for (const pipeline of plan.pipelines) {
      const memo = memos.get(pipeline.name);
      if (!memo) continue;
      const { assets, step } = assetsReached(file, pipeline, memo);
      for (const output of [...assets].sort(byCodeUnits).flatMap((asset) => memo.emitted.get(asset)?.outputs ?? [])) {
        if (outputs.has(output.path)) continue;
        const by = file === path ? {} : { by: file };
        outputs.set(output.path, {
          path: output.path,
          pipeline: pipeline.name,
          ...(step !== undefined && { step }),
          ...by,
        });
        follow(output.path);
      }
    }
  };
  follow(path);
  const ordered = plan.pipelines.flatMap(({ name }) =>
    [...outputs.values()].filter((one) => one.pipeline === name).sort((a, b) => byCodeUnits(a.path, b.path)),
  );
  return { kind: 'source', path, profile: plan.profile.name, isChanged, outputs: ordered };
}

/** The assets of a pipeline that a file has a part in, and the first step that reads it, if it is not a source. */
function assetsReached(
  file: string,
  pipeline: PlannedPipeline,
  memo: PipelineMemo,
): { assets: ReadonlySet<string>; step?: string } {
  const assets = new Set(pipeline.sources.map((source) => source.path).filter((path) => path === file));
  let step: string | undefined;
  for (const { index } of segmentsOf(pipeline)) {
    for (const unit of memo.units.values()) {
      if (unit.segment !== index) continue;
      const reader = unit.jobs.find((job) => job.reads.some((read) => isOfFile(read) && read[1] === file));
      if (!reader && !unit.inputs.some((input) => assets.has(input))) continue;
      if (reader && !pipeline.sources.some((source) => source.path === file)) step ??= reader.step;
      // Of linked files, those count that contain something of it.
      const containing = unit.assets.filter(({ origins }) => origins.includes(file));
      const isLinked =
        reader && pipeline.steps.some(({ definition }) => definition.name === reader.step && definition.loads);
      for (const asset of isLinked && containing.length > 0 ? containing : unit.assets) assets.add(asset.id);
    }
  }
  return { assets, ...(step !== undefined && { step }) };
}
