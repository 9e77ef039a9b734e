import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { somePaths } from '../explain/some-paths.js';
import type { JobExecutor } from '../execute/job-executor.js';
import {
  planPublish,
  publish,
  type OutputContent,
  type OutputRoot,
  type OutputState,
  type PublishOptions,
  type Published,
  type PublishPlan,
} from '../outputs/publish.js';
import type { OutputFile } from './memo.js';

/** Copies from this size on, in bytes, are made file by file, without their bytes in memory. */
const largeCopy = 1 << 20;

/** The published outputs of a pipeline, current at a revision of the files. */
export interface Publication {
  readonly list: readonly OutputFile[];
  readonly revision: number;
}

/** The way in which outputs are published. */
export interface PublishRequest extends Pick<PublishOptions<OutputFile>, 'inOrder' | 'isAtomic'> {
  /** Reports whether a path is that of an output that is no longer made, and may be removed. */
  readonly isStale: (path: string) => boolean;
}

/** Outputs of a pipeline to publish. */
export interface PipelineOutputs {
  readonly name: string;
  readonly outputs: readonly OutputFile[];
  /** True if the pipeline has just made the bytes of all of them. */
  readonly isFresh: boolean;
}

/** The result of publishing outputs of a pipeline, with those that had to be written. */
export interface PipelinePublication extends Published {
  readonly name: string;
  readonly pending: readonly OutputFile[];
  /** Says so when outputs were written again that another process had replaced. */
  readonly restored: Diagnostic | undefined;
}

/** The result of publishing, or the pipelines whose outputs have to be made again because their bytes are nowhere. */
export type PublishResult = { readonly missing: readonly string[] } | readonly PipelinePublication[];

/** Publishes the outputs of pipelines, comparing with the disk only those that may have changed. */
export class Publisher {
  /** @param published the outputs of each pipeline that this process has published */
  constructor(
    private readonly executor: JobExecutor,
    private readonly outputRoot: OutputRoot,
    private readonly published: Map<string, Publication>,
  ) {}

  /**
   * Publishes outputs of pipelines; stale ones stay.
   *
   * @param isStale reports whether a path is that of an output that is no longer made
   * @param inOrder sorts outputs so that each follows those that it refers to
   * @param isAtomic true if all are published, or none
   */
  async publish(
    all: readonly PipelineOutputs[],
    { isStale, inOrder, isAtomic }: PublishRequest,
  ): Promise<PublishResult> {
    const open = all.map(({ name, outputs, isFresh }) => (isFresh ? outputs : this.#unpublished(name, outputs)));
    const wanted = open.some((outputs) => outputs.some(({ path, hash }) => this.outputRoot.files.state(path) !== hash));
    if (wanted) await this.executor.store();
    const planned = all.map(({ name }, at) => ({
      pipeline: name,
      plan: planPublish(open[at]!, this.outputRoot, isStale),
    }));
    const missing = planned.filter(({ plan }, at) => !all[at]!.isFresh && !this.#hasContents(plan));
    if (missing.length > 0) return { missing: missing.map(({ pipeline }) => pipeline) };
    const restored = planned.map(({ pipeline, plan }) => this.#restored(pipeline, plan.replacing));
    const contentOf = (output: OutputFile): OutputContent => this.#contentOf(output);
    const results = publish(planned, this.outputRoot, { contentOf, inOrder, isAtomic });
    return results.map((result, at) => {
      const { pipeline: name, plan } = planned[at]!;
      return { ...result, name, pending: plan.pending, restored: restored[at] };
    });
  }

  /** The outputs that this process has not published before, or that may have changed since. */
  #unpublished(name: string, outputs: readonly OutputFile[]): readonly OutputFile[] {
    const { published, outputRoot } = this;
    const before = published.get(name);
    if (before?.list.length !== outputs.length) return outputs;
    const invalidated = new Set(outputRoot.files.invalidatedSince(before.revision));
    const isInvalidated = [...invalidated].some((path) => outputRoot.record.outputs.get(path)?.pipeline === name);
    if (before.list === outputs && !isInvalidated) return [];
    const found: OutputFile[] = [];
    for (let at = 0; at < outputs.length; at++)
      if (outputs[at] !== before.list[at] || (isInvalidated && invalidated.has(outputs[at]!.path)))
        found.push(outputs[at]!);
    return found;
  }

  /** The outputs that this process has published, and that another process has written since. */
  #restored(name: string, replacing: readonly OutputFile[]): Diagnostic | undefined {
    const before = replacing.length === 0 ? undefined : this.published.get(name)?.list;
    const wasPublished = ({ path, hash }: OutputFile): boolean =>
      before?.some((one) => one.path === path && one.hash === hash) ?? false;
    const restored = replacing.filter(wasPublished).map(({ path }) => path);
    return restored.length === 0 ? undefined : diagnostic('outputs-restored', { outputs: somePaths(restored) });
  }

  /** Notes the outputs of a pipeline as published. */
  note(name: string, list: readonly OutputFile[], states: ReadonlyMap<string, OutputState>): void {
    const { published, outputRoot } = this;
    // Edited outputs are checked and reported in every build.
    if ([...states.values()].includes('preserved')) published.delete(name);
    else published.set(name, { list, revision: outputRoot.files.revision });
  }

  #hasContents({ pending }: PublishPlan<OutputFile>): boolean {
    const { contents } = this.executor;
    return pending.every((output) => this.#sourceOf(output) !== undefined || contents.holds(output.hash));
  }

  /** The content of an output; that of a large copy is its source. */
  #contentOf(output: OutputFile): OutputContent {
    const source = this.#sourceOf(output);
    const isLarge = source !== undefined && output.bytes >= largeCopy;
    const bytes = isLarge ? undefined : this.executor.contents.get(output.hash, source);
    return bytes ?? { copyOf: source ?? output.origins[0]! };
  }

  /** The source of an output that is a copy. */
  #sourceOf({ hash, origins: [source, ...others] }: OutputFile): string | undefined {
    const { files } = this.outputRoot;
    return source !== undefined && others.length === 0 && files.state(source) === hash ? source : undefined;
  }
}
