import type { Asset } from '../assets/asset.js';
import type { SettingName, StepContext } from '../assets/context.js';
import type { SettingsClass } from '../config/field.js';
import type { ToolName } from '../assets/package-versions.js';
import type { Claim, StepDefinition } from '../config/steps.js';

/** One operation on assets, as listed in a pipeline's `steps`. */
export interface Step<Options extends object = object> extends StepDefinition {
  /** Incremented when the same input gives another output. */
  readonly version: number;
  readonly options: SettingsClass<Options>;
  /**
   * True if it depends on the constants that it reads through its context; otherwise, if it declares `constants`, on those
   * whose names the texts of its assets have.
   */
  readonly tracksConstants?: boolean;
  /** The project settings that the result for an asset with this path depends on. */
  settings(path: string): readonly SettingName[];
  /** The packages whose versions the result for an asset with this path depends on. */
  toolVersions(path: string): readonly ToolName[];
  /**
   * Reports whether the work on an asset with this path is done in this program and can be done in any of its threads. If
   * not, the step waits for another program, or has to run on the main thread.
   */
  runsInProcess(path: string, options: Options): boolean;
  gathers(options: Options): boolean;
  passesOn?(options: Options): boolean;
  runsAlways?(options: Options): boolean;
  writesSources?(options: Options): readonly string[];
  holds?(options: Options, profile: string): boolean;
  externals?(options: Options): readonly string[];
  assumesCollapsedSpace?(options: Options): boolean;
  claims(paths: readonly string[], options: Options): readonly Claim[];
  /** Gets ready for assets with these paths, while there is time; a session does so while it waits. */
  warmUp?(paths: readonly string[], context: Pick<StepContext, 'resource'>): Promise<void>;
  /** With `gathers`, all assets of the pipeline together; otherwise one at a time. */
  run(assets: readonly Asset[], options: Options, context: StepContext): Promise<readonly Asset[]> | readonly Asset[];
}
