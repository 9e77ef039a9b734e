import type { StepEnvironment } from '../assets/context.js';
import { toolVersions } from '../assets/package-versions.js';
import type { AssetRef } from '../cache/trace.js';
import type { Maps } from '../config/settings.js';
import { contentHash } from '../files/hash.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { Step } from '../steps/step.js';

/**
 * The key of a job: a hash of everything that decides its result beside the files that it will turn out to read. No
 * absolute path and no time is part of it.
 */
export function jobKey(step: Step, options: object, assets: readonly AssetRef[], settings: StepEnvironment): string {
  const versions = toolVersions();
  const tools = [...new Set(assets.flatMap((asset) => step.toolVersions(asset.path)))].sort();
  return contentHash(
    JSON.stringify([
      step.name,
      step.version,
      tools.map((name) => [name, versions[name]]),
      sorted(options),
      [settings.browsers, sorted(settings.constants), settings.maps],
      assets.map((asset) => [asset.path, asset.hash, asset.origins, asset.isPristine, asset.map ?? '']),
    ]),
  );
}

/** The keys of an object in an order of their own, so that the order they were written in does not count. */
export function sorted(value: unknown): unknown {
  if (Array.isArray(value)) return value.map(sorted);
  if (typeof value !== 'object' || value === null) return value;
  return Object.entries(value)
    .filter(([, one]) => one !== undefined)
    .sort(([a], [b]) => (a < b ? -1 : 1))
    .map(([key, one]) => [key, sorted(one)]);
}

/** A hash of everything but files that decides what a pipeline makes: its steps, settings, and the versions of tools. */
export function memoKey(pipeline: PlannedPipeline, settings: StepEnvironment, maps: Maps): string {
  const steps = pipeline.steps.map(({ definition, options, match }) => [
    definition.name,
    (definition as Step).version,
    sorted(options),
    match ?? '',
  ]);
  const { browsers, constants } = settings;
  return contentHash(JSON.stringify([steps, pipeline.to, browsers, sorted(constants), maps, sorted(toolVersions())]));
}

/** Equal for assets that no step could tell apart. */
export function inputDigest(assets: readonly AssetRef[]): string {
  if (assets.length === 1 && assets[0]!.isPristine) return `${assets[0]!.hash} ${assets[0]!.origins[0]!}`;
  return contentHash(
    JSON.stringify(
      assets.map(({ path, hash, origins, isPristine, map }) => [path, hash, origins, isPristine, map ?? '']),
    ),
  );
}
