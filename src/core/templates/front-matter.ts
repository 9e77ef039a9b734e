import { ProjectDocument } from '../config/document.js';
import { fail } from '../diagnostics/index.js';

/** The values at the beginning of a template, and the offset of the template itself. */
export interface FrontMatter {
  readonly values: Readonly<Record<string, unknown>>;
  readonly start: number;
}

/** A map in YAML between two lines of three hyphens. */
const block = /^---[^\S\n]*\n(?<yaml>[^]*?)^---[^\S\n]*(?:\n|$)/m;

/**
 * Reads the front matter of a template; without it, there are no values.
 *
 * @throws DiagnosticError if it is not a map in YAML
 */
export function readFrontMatter(file: string, text: string): FrontMatter {
  const found = /^---[^\S\n]*\n/.test(text) ? block.exec(text) : null;
  if (!found || found.index !== 0) return { values: {}, start: 0 };
  const end = found[0].length;
  // The first line is a mark of YAML too, so that the places of its mistakes are those in the file.
  const values = ProjectDocument.parse(file, text.slice(0, found[0].lastIndexOf('---'))).value() ?? {};
  if (typeof values !== 'object' || Array.isArray(values)) fail('front-matter', {}, { file, text, offsets: [0, 3] });
  return { values: values as Record<string, unknown>, start: end };
}
