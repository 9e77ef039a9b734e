import { LineIndex } from '../../diagnostics/index.js';
import { MapBuilder, type SourceMap } from '../../maps/index.js';

/** The text of a sheet while it is printed. */
export class StyleOutput {
  text = '';
  readonly #map: MapBuilder | undefined;
  readonly #lines: LineIndex | undefined;
  #line = 0;
  #lineStart = 0;

  /**
   * @param source the name of the source in the map; without it, no map is made
   * @param original the text that was parsed
   */
  constructor(
    private readonly source: string | undefined,
    original: string,
  ) {
    if (source === undefined) return;
    this.#map = new MapBuilder();
    this.#map.content(source, original);
    this.#lines = new LineIndex(original);
  }

  put(text: string): void {
    this.text += text;
    if (!this.#map) return;
    for (let at = text.indexOf('\n'); at >= 0; at = text.indexOf('\n', at + 1)) {
      this.#line++;
      this.#lineStart = this.text.length - text.length + at + 1;
    }
  }

  /** Says that what comes next is made of the node at this offset. */
  mark(node: { readonly loc?: { readonly start: { readonly offset: number } } | null | undefined }): void {
    if (!this.#map || !this.#lines || this.source === undefined || !node.loc) return;
    const { line, column } = this.#lines.position(node.loc.start.offset);
    this.#map.add(this.#line, this.text.length - this.#lineStart, this.source, line - 1, column - 1);
  }

  map(): SourceMap | undefined {
    return this.#map?.build();
  }
}
