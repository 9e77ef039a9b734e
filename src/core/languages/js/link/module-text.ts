import type { CopiedText } from '../../source-maps/index.js';

/** The text of a module after the steps before `link`; its map is computed when it is used. */
export interface ModuleText extends CopiedText {
  /** Identifies the text and its map; undefined if it is not known whether they have changed. */
  readonly version?: string | undefined;
}
