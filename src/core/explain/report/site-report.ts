import type { JobRun } from '../../build/report.js';
import type { BuildHistory, OutputKind, PastBuild } from '../../build/history.js';

/** The sizes of something, in bytes: as it is, and as servers send it. */
export interface Sizes {
  readonly bytes: number;
  readonly gzipBytes: number;
  readonly brotliBytes: number;
}

/** What an output contains of one source. */
export interface OutputPart {
  /** Relative to the project. */
  readonly source: string;
  /** The package that it belongs to. */
  readonly package?: string;
  /** Of the output as it is published. */
  readonly bytes: number;
}

/** An output with what it is made of. */
export interface ReportedOutput extends Sizes {
  /** The path under which it is published. */
  readonly path: string;
  readonly pipeline: string;
  /** The files beside it: its source map, compressed copies, and the file as it was for pipelines that read it. */
  readonly beside: readonly string[];
  readonly kind: OutputKind;
  /** The largest first. */
  readonly parts: readonly OutputPart[];
}

/** Content that outputs contain repeatedly. */
export interface Duplicate {
  /** Several copies of a package, a source in several outputs, or outputs with the same content. */
  readonly kind: 'package' | 'source' | 'output';
  readonly name: string;
  /** The folders of the copies, or the outputs. */
  readonly places: readonly string[];
  /** What would be saved if there were only one. */
  readonly bytes: number;
}

/** What a page loads. */
export interface ReportedPage {
  readonly path: string;
  /** What has to be loaded until the page shows: itself, style sheets, and scripts that it waits for. */
  readonly first: Sizes & { readonly files: readonly string[] };
  /** Everything that it loads, without what scripts load later. */
  readonly all: Sizes & { readonly files: readonly string[] };
}

/** A limit for the size of outputs. */
export interface LimitResult {
  /** An extension, or a glob. */
  readonly of: string;
  /** In bytes, compared with what servers send (gzip). */
  readonly limit: number;
  readonly gzipBytes: number;
}

/** Everything that a report says of a site and its builds. */
export interface SiteReport {
  readonly profile: string;
  /** The largest first. */
  readonly outputs: readonly ReportedOutput[];
  /** The path of the manifest of published names, which no page loads, if there is one. */
  readonly manifest?: string;
  readonly duplicates: readonly Duplicate[];
  readonly pages: readonly ReportedPage[];
  readonly limits: readonly LimitResult[];
  /** The builds that changed something, the latest last. */
  readonly builds: readonly PastBuild[];
  /** The jobs of the last of them. */
  readonly jobs: readonly JobRun[];
  /** The number of its short jobs, which are left out. */
  readonly omitted: BuildHistory['omitted'];
  /** The pipelines, in order, with those that each of them waited for. */
  readonly pipelines: readonly { readonly name: string; readonly waitsFor: readonly string[] }[];
}
