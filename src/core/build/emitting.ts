import type { OutputForm } from '../config/settings.js';
import { mapWithLimit, flattened } from './map-with-limit.js';
import { MissingContentError } from '../cache/contents.js';
import { noDigest, type EmittedOutputs, type OutputFile } from './memo.js';
import type { PipelineExecutor } from './pipeline-executor.js';
import { noteEmitted, wasEmittedFrom, type PipelineSnapshot } from './pipeline-snapshot.js';
import type { AssetRef } from '../cache/trace.js';
import { inputDigest } from './keys.js';

/** Everything that emitting the assets of a pipeline needs. */
export interface EmitRequest {
  /** The outputs of the last build, if it had the same key. */
  readonly before: ReadonlyMap<string, EmittedOutputs> | undefined;
  /** The assets of the last build in this process. */
  readonly made: readonly AssetRef[] | undefined;
  /** The folder that the files are for. */
  readonly to: string;
  readonly form: OutputForm;
  readonly executor: PipelineExecutor;
}

/**
 * Converts the assets of a pipeline to files to publish; known ones are reused.
 *
 * @returns the files by asset, and whether any of them is new
 * @throws MissingContentError if bytes are missing
 */
export async function emitAll(
  assets: readonly AssetRef[],
  { before, made, to, form, executor }: EmitRequest,
): Promise<{ emitted: ReadonlyMap<string, EmittedOutputs>; isNew: boolean }> {
  const isSameShape =
    made?.length === assets.length &&
    assets.every((asset, place) => asset === made[place] || asset.id === made[place]!.id);
  const emitted = isSameShape ? (before as Map<string, EmittedOutputs>) : new Map<string, EmittedOutputs>();
  const pending: AssetRef[] = [];
  for (let place = 0; place < assets.length; place++) {
    const asset = assets[place]!;
    if (isSameShape && asset === made[place]) continue;
    const known = before?.get(asset.id);
    if (known && (wasEmittedFrom(known, asset) || known.input === inputDigest([asset]))) {
      noteEmitted(known, asset);
      emitted.set(asset.id, known);
    } else {
      if (!isSameShape) emitted.set(asset.id, { input: noDigest, outputs: [] });
      pending.push(asset);
    }
  }
  await mapWithLimit(pending, async (asset) => {
    const made = await executor.emit(asset, to, form);
    await executor.trim();
    if (!made) throw new MissingContentError();
    const one = { input: inputDigest([asset]), ...made };
    noteEmitted(one, asset);
    emitted.set(asset.id, one);
  });
  return { emitted, isNew: pending.length > 0 || before?.size !== emitted.size };
}

/** Everything to publish, in order; the same list as before where nothing is different. */
export function listOutputs(
  assets: readonly AssetRef[],
  emitted: ReadonlyMap<string, EmittedOutputs>,
  before: PipelineSnapshot | undefined,
): readonly OutputFile[] {
  const outputsOf = (asset: AssetRef): readonly OutputFile[] => emitted.get(asset.id)!.outputs;
  if (before?.made.length !== assets.length) return flattened(assets.map(outputsOf));
  return assets.every((asset, place) => asset === before.made[place])
    ? before.outputs
    : flattened(assets.map(outputsOf));
}
