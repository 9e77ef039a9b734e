/**
 * The public interface of Loyal Anvil, which its own command line uses. Nothing else of the package should be imported.
 *
 * @example
 * import { Project } from 'loyal-anvil';
 * const project = await Project.open({ folder: 'my-site' });
 * const report = await project.build({ profile: 'production', listen: (event) => console.log(event.event) });
 */
export {
  Project,
  type BuildOptions,
  type CleanOptions,
  type CleanReport,
  type ForecastOptions,
  type OpenOptions,
} from './core/open.js';
export { Session, type SessionOptions, type SessionState } from './core/watch/session.js';
export type { SessionEvent } from './core/watch/session-event.js';
export { SiteServer, type ServeOptions } from './server/server.js';
export type { ServerEvent } from './server/event.js';
export type { BuildForecast, ForecastJob, PipelineForecast } from './core/explain/forecast.js';
export type { OutputReasons, ReachedOutput, SourceReach, UsedFile, UsedStep } from './core/explain/why.js';
export type {
  Duplicate,
  LimitResult,
  OutputPart,
  ReportedOutput,
  ReportedPage,
  SiteReport,
  Sizes,
} from './core/explain/report/site-report.js';
export type { BuildHistory, KindSize, OutputKind, PastBuild } from './core/build/history.js';
export {
  minifyScript,
  minifyStyle,
  prefixStyle,
  type MinifyScriptOptions,
  type MinifyStyleOptions,
  type PrefixStyleOptions,
  type TextOptions,
  type TextResult,
} from './core/pure.js';
export {
  browserCost,
  prefixFeatures,
  type BrowserCost,
  type PrefixedFeature,
  type PrefixFeature,
} from './core/languages/css/prefix/cost.js';
export type {
  BuildEvent,
  BuildReport,
  JobCount,
  JobRun,
  OutputReport,
  PipelineReport,
  PipelineState,
} from './core/build/report.js';
export { diagnosticHelp } from './core/diagnostics/help.js';
export {
  DiagnosticError,
  formatLine,
  type Code,
  type Diagnostic,
  type Position,
  type Range,
  type Severity,
} from './core/diagnostics/index.js';
export type { Claim, FolderClaim } from './core/config/steps.js';
export type { PipelineDependency } from './core/plan/order.js';
export type { PlannedPipeline, PlannedSource } from './core/plan/pipeline.js';
export type { Plan } from './core/plan/plan.js';
export type { OutputState } from './core/outputs/publish.js';
export {
  assetFunction,
  assetListFunction,
  type AppliedAsset,
  type AppliedFile,
  type AppliedFinding,
  type ApplyContext,
  type ApplyResult,
  type AssetFunction,
  type AssetListFunction,
} from './core/steps/work/apply-types.js';
