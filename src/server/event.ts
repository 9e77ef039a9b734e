import type { SessionEvent } from '../core/watch/session-event.js';

/** The events of the server, in addition to those of its session. */
export type ServerEvent =
  | SessionEvent
  /** It accepts requests; `portInUse` is the requested port, if that was in use. */
  | {
      readonly event: 'serving';
      readonly folder: string;
      /** The first URL is for this machine. */
      readonly urls: readonly string[];
      readonly portInUse?: number;
    }
  /** A browser shows a page. */
  | { readonly event: 'page-opened'; readonly page: string; readonly browser: string }
  /** Pages were updated after a rebuild: with the changed files, and the number of problems. */
  | {
      readonly event: 'pages-updated';
      readonly pages: number;
      readonly changed: readonly string[];
      readonly problems: number;
    };
