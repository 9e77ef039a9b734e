import type { Chunk } from './chunk.js';
import type { Edit } from './edits.js';
import type { LinkedModule } from './graph.js';

/** What is printed for a chunk that is a file, or a part of the file of a classic script. */
export class FilePart {
  /** The edits of each module whose code is part of it. */
  readonly edits = new Map<LinkedModule, readonly Edit[]>();
  /** The code that evaluates CommonJS modules. */
  readonly evaluations = new Map<LinkedModule, string>();
  /** The declarations of namespaces. */
  readonly namespaces: string[] = [];
  /** The original names of functions with other names. */
  readonly renamed = new Map<string, string>();
  /** The object whose members stand for imports that are assigned to in a classic script; its name is empty if it is not needed. */
  readonly readOnly = { object: '', members: new Map<string, string>() };

  constructor(readonly chunk: Chunk) {}
}
