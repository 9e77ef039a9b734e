import { decodeHTMLAttribute, decodeXML } from 'entities';

/** A text in a file, such as the value of an attribute, with the positions of its characters. */
export class LocatedText {
  /** The text with escapes decoded. */
  readonly value: string;
  readonly #offsets: readonly number[] | undefined;

  /**
   * @param raw the text in the file
   * @param start its 0-based offset there
   * @param decode decodes a character reference
   */
  constructor(
    private readonly raw: string,
    private readonly start: number,
    decode: (text: string) => string,
  ) {
    const { value, offsets } = raw.includes('&') ? decoded(raw, decode) : { value: raw, offsets: undefined };
    this.value = value;
    this.#offsets = offsets;
  }

  /** The value of an attribute of a page. */
  static inPage(raw: string, start: number): LocatedText {
    return new LocatedText(raw, start, decodeHTMLAttribute);
  }

  /** The value of an attribute, or a text, in XML. */
  static inXml(raw: string, start: number): LocatedText {
    return new LocatedText(raw, start, decodeXML);
  }

  /** The offset in the file of a character of the value; that of the end of the text for its length. */
  at(index: number): number {
    return this.start + (this.#offsets ? (this.#offsets[index] ?? this.raw.length) : index);
  }

  /** The range in the file of a part of the value. */
  range(from: number, to: number): { readonly start: number; readonly end: number } {
    return { start: this.at(from), end: this.at(to) };
  }
}

/** Decodes a text, and tells for each character of the result where it comes from. */
function decoded(raw: string, decode: (text: string) => string): { value: string; offsets: number[] } {
  let value = '';
  const offsets: number[] = [];
  for (let at = 0; at < raw.length;) {
    const [reference] = /^&(#x?[\da-f]+|[a-z][a-z\d]*);?/i.exec(raw.slice(at, at + 40)) ?? [];
    let piece = raw[at]!;
    let length = 1;
    if (reference !== undefined) {
      // Whether a reference without a semicolon is one depends on the next character.
      const next = /^[^&]/.exec(raw.slice(at + reference.length))?.[0] ?? '';
      const both = decode(reference + next);
      piece = both.slice(0, both.length - next.length);
      length = reference.length;
    }
    for (let one = 0; one < piece.length; one++) offsets.push(piece === reference ? at + one : at);
    value += piece;
    at += length;
  }
  return { value, offsets };
}
