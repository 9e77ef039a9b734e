/** The messages between the server and the script in the page. Types only. */

/** The way in which a page applies a changed file: replacing it in place, or reloading. */
export type FileKind = 'style' | 'image' | 'font' | 'other';

/** A file that differs from the version that a page may have loaded. */
export interface Change {
  /** Its path on the server, encoded. */
  readonly url: string;
  readonly kind: FileKind;
  /** Paths of files that are known to have requested it, such as a worker that imports it. */
  readonly requestedBy: readonly string[];
}

/** A problem as shown in pages. */
export interface Problem {
  readonly severity: 'error' | 'warning' | 'note';
  readonly code: string;
  readonly message: string;
  readonly hint: string;
  readonly pipeline?: string;
  /** True for an error that keeps nothing from being published. */
  readonly isAdvisory?: true;
  /** The file with the position, as `styles/site.scss:3:14`. */
  readonly place?: string;
  readonly frame?: readonly FrameLine[];
}

/** A line of a code frame; `marked` are the highlighted columns, from 0. */
export interface FrameLine {
  readonly number: number;
  readonly text: string;
  readonly marked?: readonly [start: number, end: number];
}

/** The message after a rebuild, and the first one after a page has connected. */
export interface Update {
  /** Identifies the content of all served files. */
  readonly state: string;
  /** The changes since the state that the page knows; null when they are unknown, so that anything may have changed. */
  readonly changed: readonly Change[] | null;
  /** All current problems. */
  readonly problems: readonly Problem[];
  /** Only on connecting: the path of the file that is shown as the page. */
  readonly page?: string;
}

/** The names of the events of the channel. */
export type EventName = 'update' | 'heartbeat';
