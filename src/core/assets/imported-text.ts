import { diagnostic } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { marksIn } from '../languages/marks.js';
import type { StepContext } from './context.js';

/**
 * The text of a file that a compiler or a template language reads besides its sources: a partial, a layout. Such a file
 * does not go through the steps of the pipeline, so that parts for some profiles are not cut, which is a warning.
 *
 * @returns undefined if the file does not exist
 * @throws DiagnosticError if it is not UTF-8
 */
export function importedText(path: string, context: StepContext): string | undefined {
  const bytes = context.read(path);
  if (!bytes) return undefined;
  const text = decodeText(bytes, path);
  for (const { start, end, words } of marksIn(text))
    if (words.startsWith('only'))
      context.report(diagnostic('cut-imported', { words }, { file: path, text, offsets: [start, end] }));
  return text;
}
