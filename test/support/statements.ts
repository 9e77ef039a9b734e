/**
 * The statements of a page in Markdown: its sentences, items of lists, and rows of tables, without headings, code,
 * pictures and heads of tables.
 *
 * @param text the page
 */
export function statementsOf(text: string): string[] {
  const blocks = text
    .replace(/^```[^]*?^```$/gm, '')
    .split('\n')
    .filter((line) => !/^(#|!\[|\|[-| ]+\||\| (key|event) \||$)/.test(line));
  return blocks.flatMap((line) => (line.startsWith('|') ? [line] : sentencesOf(line.replace(/^(-|\d+\.) /, ''))));
}

/** Divides a paragraph after full stops and colons that are followed by a new sentence. */
const sentencesOf = (line: string): string[] =>
  line
    .split(/(?<=[.!?]\)?|\.\*\*)\s+(?=[A-Z`*[“])/)
    .map((one) => one.trim())
    .filter((one) => one !== '');
