import { emptyMap, type CopiedText } from '../languages/source-maps/index.js';
import { RenderedText, type KnownTexts } from './rendered-text.js';
import type { Template } from './template.js';

/** The range of a template that the text after a mark comes from. */
interface Marked {
  readonly template: Template;
  readonly start: number;
  readonly end: number;
}

/** A mark: its index between two code points that are never characters of a text (Unicode, "Noncharacters"). */
const mark = /\uFDD0(\d+)\uFDD1/;

/**
 * Marks in templates whose language does not tell where a piece of its result comes from: the same template is rendered
 * once more with marks before its texts and expressions, and the text between two of them comes from the first.
 */
export class TextMarks {
  readonly #marked: Marked[] = [];

  /** A mark before something in a template, with its range in the whole text. */
  before(template: Template, start: number, end: number): string {
    return `\uFDD0${String(this.#marked.push({ template, start, end }) - 1)}\uFDD1`;
  }

  /**
   * The text with its mappings; without any if the template renders to something else, or fails, the second time.
   *
   * @param text the result without marks
   * @param render renders the template with marks
   */
  placed(text: string, render: () => string, known: KnownTexts): CopiedText {
    const withMarks = attempt(render);
    if (withMarks === undefined) return { text, map: emptyMap };
    // Text and indexes alternate; the text before the first mark comes from nowhere.
    const [first = '', ...rest] = withMarks.split(mark);
    const pieces = rest.filter((_, at) => at % 2 === 1);
    if ([first, ...pieces].join('') !== text) return { text, map: emptyMap };
    const rendered = new RenderedText(true, known);
    rendered.addUnknown(first);
    pieces.forEach((piece, at) => {
      const from = this.#marked[Number(rest[at * 2])];
      if (from) rendered.add(piece, from.template.copied, from.start, from.end);
      else rendered.addUnknown(piece);
    });
    return rendered.finish();
  }
}

/** The second run is only for the places: code in a template may count on being run once. */
function attempt(render: () => string): string | undefined {
  try {
    return render();
  } catch {
    return undefined;
  }
}
