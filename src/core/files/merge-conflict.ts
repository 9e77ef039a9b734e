import { diagnostic, type Diagnostic } from '../diagnostics/index.js';

/** The lines that Git writes around the two versions of a text that it cannot merge. */
export interface MergeConflict {
  /** The range of the first of them: 0-based offsets. */
  readonly start: number;
  readonly end: number;
  /** The lines of the markers, from 1. */
  readonly lines: readonly [first: number, middle: number, last: number];
  /** The names of both versions, such as those of branches; empty if they have none. */
  readonly names: readonly [ours: string, theirs: string];
}

const firstMark = '<<<<<<<';

/**
 * Finds the first merge conflict in a text.
 *
 * @param path code in fences of Markdown may show one
 */
export function findMergeConflict(text: string, path: string): MergeConflict | undefined {
  if (!text.includes(firstMark)) return undefined;
  const isMarkdown = /\.md$/i.test(path);
  let fence = '';
  let first: { readonly start: number; readonly line: number; readonly name: string } | undefined;
  let middle = 0;
  let start = 0;
  for (const [at, written] of text.split('\n').entries()) {
    const line = written.replace(/\r$/, '');
    const [mark = ''] = isMarkdown ? (/^ {0,3}(`{3,}|~{3,})/.exec(line)?.slice(1) ?? []) : [];
    if (mark !== '' && (fence === '' || mark.startsWith(fence))) fence = fence === '' ? mark : '';
    const [, kind, name = ''] = (fence === '' && /^(<{7}|={7}|>{7})(?: (.*))?$/.exec(line)) || [];
    if (kind === firstMark) [first, middle] = [{ start, line: at + 1, name }, 0];
    else if (kind === '=======' && first) middle = at + 1;
    else if (kind === '>>>>>>>' && first && middle > 0)
      return {
        start: first.start,
        end: first.start + firstMark.length,
        lines: [first.line, middle, at + 1],
        names: [first.name, name],
      };
    start += written.length + 1;
  }
  return undefined;
}

/** The diagnostic for the merge conflict of a file, if it has one; binary files have none. */
export function mergeConflictIn(bytes: Uint8Array, file: string): Diagnostic | undefined {
  if (
    bytes.subarray(0, 1000).includes(0) ||
    !Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).includes(firstMark)
  )
    return undefined;
  return conflictDiagnostic(new TextDecoder().decode(bytes), file);
}

/** The diagnostic for a text with a merge conflict, if it has one. */
export function conflictDiagnostic(text: string, file: string): Diagnostic | undefined {
  const found = findMergeConflict(text, file);
  if (!found) return undefined;
  const { start, end, lines, names } = found;
  return diagnostic('merge-conflict', { lines, names }, { file, text, offsets: [start, end] });
}
