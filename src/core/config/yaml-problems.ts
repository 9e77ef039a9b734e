import type * as library from 'yaml';
import type { Document, ErrorCode, Node, YAMLError } from 'yaml';
import { diagnostic, type Diagnostic, type Place } from '../diagnostics/index.js';

/** A problem and the hint for it. */
type Words = readonly [problem: string, hint: string];

const quoting = 'Put the whole text in quotes.';
const oneLine: Words = [
  'A key has no `:` after it.',
  'Write `key: value`, with a space after the colon, and quote text that spans several lines.',
];

/** The most common mistakes, with messages of this project; for others, the parser's own messages are used. */
const words: Partial<Record<ErrorCode, Words>> = {
  BAD_INDENT: [
    'The indentation does not match the lines above.',
    'Indent all items of a map or list by the same number of spaces.',
  ],
  BAD_DQ_ESCAPE: ['Unknown escape sequence.', 'Double the backslash, or use single quotes.'],
  BAD_SCALAR_START: ['An unquoted text cannot begin with this character.', quoting],
  BAD_ALIAS: ['In YAML, `*` and `&` begin a name, which is missing here.', `${quoting} A glob may begin with \`*\`.`],
  BLOCK_AS_IMPLICIT_KEY: [
    'This line contains a second `: `.',
    'Quote text that contains `: `, or move the value to separate lines.',
  ],
  MULTILINE_IMPLICIT_KEY: oneLine,
};

/** Diagnostics for errors that the parser only distinguishes by their messages. */
const wordsByMessage: readonly (readonly [message: RegExp, words: Words])[] = [
  [/^Implicit map keys need to be followed/, oneLine],
  [/^Maximum call stack/, ['The file is nested too deeply.', 'Write it with fewer levels.']],
  [/ at node end$/, ['Unexpected text after the end of this value.', quoting]],
  [/^Missing , /, ['A `,` is missing before this item.', 'Put a comma between the two.']],
  [/^Missing space after :/, ['A space is missing after this `:`.', 'Write `key: value`.']],
  [
    /^Sequence item without - /,
    ['Items of a list begin with `- `.', 'Put `- ` before it, or move it out of the list.'],
  ],
  [/^Unexpected (empty item|,)/, ['Unexpected `,`.', 'Remove it, or add the missing item before it.']],
];

/** Errors of the parser that result from an earlier one. */
const consequence = /token in YAML stream|at node end$/;

/**
 * Converts the errors of a YAML parser to diagnostics, one per cause.
 *
 * @param yaml the library that parsed it
 * @param document the parsed document
 * @param file the name of the file in diagnostics
 */
export function yamlProblems(
  yaml: typeof library,
  document: Document.Parsed,
  file: string,
  text: string,
): Diagnostic[] {
  const found: Diagnostic[] = [];
  // A glob whose braces YAML parses as a map causes further errors: only the first one is reported, with a suggestion.
  const globs = new Map<number, string>();
  let parsed = document;
  for (let glob = unquotedGlob(parsed, text); glob && !globs.has(glob.start); glob = unquotedGlob(parsed, text)) {
    globs.set(glob.start, glob.text);
    const place: Place = { file, text, offsets: [glob.start, glob.start + glob.text.length] };
    found.push(diagnostic('yaml-glob', { glob: glob.text }, place));
    parsed = yaml.parseDocument(withoutBraces(text, globs), { prettyErrors: false, logLevel: 'error' });
  }
  found.push(...problemsOf(yaml, parsed, file, text));
  return found.toSorted((a, b) => a.range!.start.line - b.range!.start.line);
}

function problemsOf(yaml: typeof library, document: Document.Parsed, file: string, text: string): Diagnostic[] {
  // The parser only warns of text that begins with `!`, which is an error here.
  const tags = document.warnings.filter(({ code }) => code === 'TAG_RESOLVE_FAILED');
  const open = openNodes(yaml, document, text);
  return withoutConsequences([...document.errors, ...tags].toSorted((a, b) => a.pos[0] - b.pos[0])).map((error) => {
    const place = (start: number, end: number): Place => ({ file, text, offsets: [start, Math.max(end, start + 1)] });
    const here = place(...error.pos);
    const syntax = ([problem, hint]: Words, at = here): Diagnostic => diagnostic('yaml-syntax', { problem, hint }, at);
    if (error.code === 'TAB_AS_INDENT' || text[error.pos[0]] === '\t') return diagnostic('yaml-tab', {}, here);
    if (error.code === 'DUPLICATE_KEY')
      return diagnostic('yaml-duplicate-key', { key: wordAt(text, error.pos[0]) }, here);
    if (error.code === 'MULTIPLE_DOCS') return diagnostic('yaml-documents', {}, here);
    if (error.code === 'TAG_RESOLVE_FAILED') return diagnostic('yaml-tag', { tag: wordAt(text, error.pos[0]) }, here);
    const isOpen = isUnclosed(error) && open[0];
    if (isOpen) return syntax(isOpen.words, place(isOpen.start, isOpen.start + 1));
    return syntax(wordsFor(error));
  });
}

const isUnclosed = ({ message }: YAMLError): boolean => /closing .quote|must.* end with a [\]}]$/.test(message);

/** Removes errors that result from an earlier one, and repeated errors. */
function withoutConsequences(errors: readonly YAMLError[]): YAMLError[] {
  let [isConfused, isOpen] = [false, false];
  return errors.filter((error) => {
    const isRepeat = (isConfused && consequence.test(error.message)) || (isOpen && isUnclosed(error));
    isConfused ||= consequence.test(error.message) || isUnclosed(error);
    isOpen ||= isUnclosed(error);
    return !isRepeat;
  });
}

/** Finds an unquoted glob with braces, inside a list or map in brackets, at the first error. */
function unquotedGlob({ errors }: Document.Parsed, text: string): { start: number; text: string } | undefined {
  const first = Math.min(...errors.map(({ pos }) => pos[0]));
  if (!Number.isFinite(first)) return undefined;
  for (const at of [first, first - 1, first + 1]) {
    if (text[at] !== '{' || !/[^\s,[{:"']/.test(text[at - 1] ?? ' ')) continue;
    const [before = ''] = /[^\s,[\]{}"']*$/.exec(text.slice(0, at)) ?? [];
    const [after = ''] = /^(?:\{[^{}\s]*\}|[^\s,\]{}])+/.exec(text.slice(at)) ?? [];
    if (after.includes('}')) return { start: at - before.length, text: before + after };
  }
  return undefined;
}

/** Replaces some globs in a text so that YAML parses them as plain scalars; all other offsets are unchanged. */
function withoutBraces(text: string, globs: ReadonlyMap<number, string>): string {
  let result = text;
  for (const [start, glob] of globs)
    result = result.slice(0, start) + glob.replace(/[{},]/g, '_') + result.slice(start + glob.length);
  return result;
}

function wordsFor(error: YAMLError): Words {
  const known = words[error.code] ?? wordsByMessage.find(([message]) => message.test(error.message))?.[1];
  if (known) return known;
  const message = error.message.replace(/ at line \d+.*$/s, '').trim();
  return [/[.!?]$/.test(message) ? message : `${message}.`, 'Fix the YAML here.'];
}

interface OpenNode {
  readonly start: number;
  readonly words: Words;
}

/** Finds unclosed brackets and quotes, innermost first; the parser only reports where it stopped. */
function openNodes(yaml: typeof library, document: Document.Parsed, text: string): OpenNode[] {
  const found: OpenNode[] = [];
  const look = (node: Node, isQuote: boolean): void => {
    const [start, end] = node.range!;
    const sign = text[start]!;
    const closing = { '[': ']', '{': '}' }[sign] ?? sign;
    if (end - start > 1 && text[end - 1] === closing) return;
    const what = isQuote ? 'A quoted text' : sign === '[' ? 'A list' : 'A map';
    found.unshift({
      start,
      words: [
        isQuote ? `${what} is not closed.` : `${what} that begins with \`${sign}\` is not closed.`,
        isQuote ? 'Close it with the quote it was opened with.' : `Put a \`${closing}\` after its last item.`,
      ],
    });
  };
  yaml.visit(document, {
    Scalar(_, node) {
      if (node.range && node.type?.startsWith('QUOTE')) look(node, true);
    },
    Collection(_, node) {
      if (node.range && node.flow) look(node, false);
    },
  });
  return found;
}

function wordAt(text: string, offset: number): string {
  return /^[^\s:]+/.exec(text.slice(offset))?.[0] ?? '';
}
