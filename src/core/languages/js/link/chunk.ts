import type { LinkedModule } from './graph.js';

/** A file of a bundle, in which modules share one scope. */
export interface Chunk {
  /** The modules that it evaluates, in order. */
  readonly modules: LinkedModule[];
  /** CommonJS modules, and JSON that these require, which it defines: functions and data, without any effect. */
  readonly definitions: LinkedModule[];
}
