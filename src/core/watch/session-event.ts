import type { BuildEvent } from '../build/report.js';
import type { Diagnostic } from '../diagnostics/index.js';

/**
 * The events of a session. Each round begins with `changed`, continues with the events of its build, and ends with
 * `waiting`.
 */
export type SessionEvent =
  | BuildEvent
  | { readonly event: 'session-started'; readonly profile: string; readonly pipelines: readonly string[] }
  /** Files were added, changed or removed, possibly including the project file and removed outputs. */
  | {
      readonly event: 'changed';
      /** All of them. */
      readonly paths: readonly string[];
      readonly added: readonly string[];
      readonly removed: readonly string[];
    }
  /**
   * The project cannot be built: because of its file, whose last valid version remains in use, or because of its plan.
   */
  | { readonly event: 'config-error'; readonly isProjectFile: boolean; readonly diagnostics: readonly Diagnostic[] }
  /** Something that had errors builds without errors again. */
  | { readonly event: 'recovered'; readonly pipelines: readonly string[]; readonly isProjectFile: boolean }
  | { readonly event: 'waiting'; readonly folders: number; readonly isPolling: boolean };
