import { posix } from 'node:path';
import type { SettingName, StepEnvironment } from '../assets/context.js';
import { toolVersions } from '../assets/package-versions.js';
import { isKnownModule } from '../assets/asset.js';
import type { AssetRef } from '../cache/trace.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { OutputForm } from '../config/settings.js';
import { extensionsWhere } from '../languages/formats.js';
import { contentHash } from '../files/hash.js';
import type { Claim } from '../config/steps.js';
import { claimsAfter, describeClaim } from '../plan/claims.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Step } from '../steps/step.js';
import type { Digest } from './memo.js';

/**
 * The key of a job: a hash of everything that determines its result, except what it reads while it runs. It depends on
 * no absolute path, no time, and only on the settings that the step declares.
 *
 * @param earlier the steps before it in its pipeline: what it loads has gone through them
 */
export function jobKey(
  step: Step,
  options: object,
  assets: readonly AssetRef[],
  settings: StepEnvironment,
  earlier: readonly ConfiguredStep[],
): string {
  const versions = toolVersions();
  const paths = pathsOf(assets);
  const tools = [...new Set(paths.flatMap((path) => step.toolVersions(path)))].sort();
  return contentHash(
    JSON.stringify([
      step.name,
      step.version,
      tools.map((name) => [name, versions[name]]),
      sorted(options),
      declaredSettings(settings, new Set(paths.flatMap((path) => step.settings(path))), step.tracksConstants === true),
      assets.map((asset) => [
        asset.id,
        asset.path,
        asset.hash,
        asset.origins,
        asset.isPristine,
        asset.map ?? '',
        isKnownModule(asset),
        asset.variants ?? '',
      ]),
      ...(step.loads === true ? [loadingKey(earlier, settings)] : []),
    ]),
  );
}

/** A file of each format, for steps that decide by extension. */
const samples = extensionsWhere(() => true).map((extension) => `a.${extension}`);

/**
 * Everything but files and the values of constants that determines what a source is after some steps, whatever its format
 * is. The jobs of these steps tell which constants they depend on.
 */
function loadingKey(steps: readonly ConfiguredStep[], settings: StepEnvironment): unknown {
  const versions = toolVersions();
  return steps.map(({ definition, options, match }) => {
    const step = definition as Step;
    const tools = [...new Set(samples.flatMap((path) => step.toolVersions(path)))].sort();
    const names = new Set(samples.flatMap((path) => step.settings(path)));
    return [
      step.name,
      step.version,
      sorted(options),
      match ?? '',
      tools.map((name) => [name, versions[name]]),
      declaredSettings(settings, names, true),
    ];
  });
}

/** The paths of the assets that a step is asked about: an empty one without any. */
export const pathsOf = (assets: readonly Pick<AssetRef, 'path'>[]): readonly string[] =>
  assets.length === 0 ? [''] : assets.map(({ path }) => path);

/**
 * The values of some settings, in a fixed order.
 *
 * @param isTracked true if a job tells which constants it depends on: only their names matter
 */
function declaredSettings(settings: StepEnvironment, names: ReadonlySet<SettingName>, isTracked: boolean): unknown {
  const valueOf = (name: SettingName): unknown =>
    name === 'constants' && isTracked ? Object.keys(settings.constants).sort() : sorted(settings[name]);
  return [...names].sort().map((name) => [name, valueOf(name)]);
}

/** The entries of an object, sorted by key. */
export function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.entries(value)
    .filter(([, one]) => one !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, one]) => [key, sorted(one)]);
}

/**
 * A hash of everything but files that determines the outputs of a pipeline: its steps, the settings that they declare,
 * and the versions of tools.
 */
export function memoKey(pipeline: PlannedPipeline, settings: StepEnvironment, form: OutputForm): string {
  const steps = pipeline.steps.map(({ definition, options, match }) => [
    definition.name,
    (definition as Step).version,
    sorted(options),
    match ?? '',
  ]);
  const declared = declaredSettings(settings, settingsOf(pipeline), false);
  return contentHash(JSON.stringify([steps, pipeline.to, declared, form, sorted(toolVersions())]));
}

const settingsByPipeline = new WeakMap<PlannedPipeline, ReadonlySet<SettingName>>();

/** The settings that the steps of a pipeline declare for its sources. */
function settingsOf(pipeline: PlannedPipeline): ReadonlySet<SettingName> {
  const known = settingsByPipeline.get(pipeline);
  if (known) return known;
  // Steps decide by extension: one source per extension represents the others.
  const samples = new Map(pipeline.sources.map(({ target }) => [posix.extname(target), target]));
  const names = new Set<SettingName>();
  let claims: readonly Claim[] = [...samples.values()];
  for (const step of pipeline.steps) {
    const { settings } = step.definition as Step;
    if (pipeline.from.length === 0) for (const name of settings('')) names.add(name);
    for (const claim of claims) for (const name of settings(describeClaim(claim))) names.add(name);
    claims = claimsAfter(claims, step);
  }
  settingsByPipeline.set(pipeline, names);
  return names;
}

/** A digest that is equal for assets which no step can distinguish. */
export function inputDigest(assets: readonly AssetRef[]): Digest {
  if (assets.length === 1 && assets[0]!.isPristine && !assets[0]!.variants)
    return `${assets[0]!.hash} ${assets[0]!.id}` as Digest;
  return contentHash(
    JSON.stringify(
      assets.map(({ id, path, hash, origins, isPristine, map, variants }) => [
        id,
        path,
        hash,
        origins,
        isPristine,
        map ?? '',
        ...(variants ? [variants] : []),
      ]),
    ),
  ) as Digest;
}
