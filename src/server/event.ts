import type { SessionEvent } from '../core/watch/session.js';

/** What the server tells beside what its session does. */
export type ServerEvent =
  | SessionEvent
  /** It can be reached; `takenPort` is the one that was asked for, when that was not to be had. */
  | {
      readonly event: 'serving';
      readonly folder: string;
      /** The first one is for this machine. */
      readonly urls: readonly string[];
      readonly takenPort?: number;
    }
  /** A browser shows a page. */
  | { readonly event: 'page-opened'; readonly page: string; readonly browser: string }
  /** Pages were told of a rebuild: of what changed, and of how much is wrong. */
  | {
      readonly event: 'pages-told';
      readonly pages: number;
      readonly changed: readonly string[];
      readonly problems: number;
    };
