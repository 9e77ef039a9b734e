import type { Asset } from '../assets/asset.js';
import type { AssetRef, Read } from '../cache/trace.js';
import type { ConfiguredStep } from '../config/project-config.js';
import type { OutputForm } from '../config/settings.js';
import type { JobExecutor } from '../execute/job-executor.js';
import type { FileTable } from '../files/file-table.js';
import { CompressedFiles } from './compressed-files.js';
import { doJob } from './job.js';
import { emit } from './output.js';
import type { JobOutcome, JobRequest, PipelineExecutor } from './pipeline-executor.js';

/** The executor of a build. */
export class BuildExecutor implements PipelineExecutor {
  readonly #compressed: CompressedFiles;

  constructor(private readonly jobs: JobExecutor) {
    this.#compressed = new CompressedFiles(jobs.contents, () => jobs.store());
  }

  get files(): FileTable {
    return this.jobs.inputs.files;
  }

  isCurrent(read: Read): boolean {
    return this.jobs.inputs.isCurrent(read);
  }

  expect(steps: readonly ConfiguredStep[], assets: readonly AssetRef[]): void {
    this.jobs.expect(steps, assets);
  }

  job(step: ConfiguredStep, assets: readonly AssetRef[], request: JobRequest): Promise<JobOutcome | undefined> {
    return doJob(step, assets, request, this.jobs);
  }

  emit(asset: AssetRef, to: string, form: OutputForm): ReturnType<PipelineExecutor['emit']> {
    const { contents, gzipSizes } = this.jobs;
    return emit(asset, to, form, { contents, gzipSizes, files: this.files, compressedFiles: this.#compressed });
  }

  async asset(ref: AssetRef): Promise<Asset | undefined> {
    await this.jobs.store();
    return this.jobs.contents.lazyAsset(ref);
  }

  trim(): Promise<void> {
    return this.jobs.contents.trim();
  }
}
