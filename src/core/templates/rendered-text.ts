import { emptyMap, TextBuilder, type CopiedText } from '../languages/source-maps/index.js';

/**
 * Texts that later templates print as a whole, with their maps: the content of a layout, what a tag has captured.
 * A template that prints one of them changed has only the place of its expression.
 */
export type KnownTexts = Map<string, CopiedText>;

/** Composes what templates render to from its pieces, each with the place in a template that it comes from. */
export class RenderedText {
  readonly #builder: TextBuilder;

  /** @param maps whether the places of the pieces are wanted */
  constructor(
    maps: boolean,
    private readonly known: KnownTexts,
  ) {
    this.#builder = new TextBuilder(maps);
  }

  /** Appends a piece that comes from a range of a template: its own text, or what its expression stands for. */
  add(text: string, from: CopiedText, start: number, end: number): void {
    const known = this.known.get(text);
    if (known) this.#builder.copy(known);
    else if (from.text.startsWith(text, start)) this.#builder.copy(from, start, start + text.length);
    else this.#addLines(text, from, start, end);
  }

  /** Appends a piece that comes from no template. */
  addUnknown(text: string): void {
    this.#builder.add(text);
  }

  /** The text with its mappings, when places are wanted. */
  finish(): CopiedText {
    return { text: this.#builder.text, map: this.#builder.map() ?? emptyMap };
  }

  /** Lines have other white space than in the template where a part is indented as its tag is. */
  #addLines(text: string, from: CopiedText, start: number, end: number): void {
    let cursor = start;
    for (const line of text.split(/(?<=\n)/)) {
      const bare = line.trim();
      const at = bare === '' ? -1 : from.text.indexOf(bare, cursor);
      if (at < 0 || at + bare.length > end) this.#addLine(line, from, start, end);
      else {
        const begin = line.indexOf(bare);
        this.#builder.add(line.slice(0, begin), from, at);
        this.#builder.copy(from, at, at + bare.length);
        this.#builder.add(line.slice(begin + bare.length), from, at);
        cursor = at + bare.length;
      }
    }
  }

  /** A line that is the template's for its first characters at most. */
  #addLine(line: string, from: CopiedText, start: number, end: number): void {
    let length = 0;
    while (length < Math.min(line.length, end - start) && line[length] === from.text[start + length]) length++;
    this.#builder.copy(from, start, start + length);
    this.#builder.add(line.slice(length), from, start);
  }
}
