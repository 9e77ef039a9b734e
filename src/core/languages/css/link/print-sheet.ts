import type { SourceMap } from '../../source-maps/index.js';
import { TextBuilder } from '../../source-maps/index.js';
import { copyPiece, endOfRules, type NewUrl } from '../copied-sheet.js';
import { printString } from '../print/text.js';
import type { ImportConditions } from './import-rule.js';
import { sheetsOf, type RemainingImport, type LinkedSheet, type Part, type SheetFile } from './linked-sheet.js';

/** How a file refers to others. */
export interface SheetUrls {
  /** The new URLs in the rules of a sheet, in order. */
  urlsOf(sheet: LinkedSheet): readonly NewUrl[];
  /** The URL of another file. */
  urlTo(file: SheetFile): string;
}

/** A printed file. */
export interface PrintedSheet {
  readonly text: string;
  /** Undefined if maps are off. */
  readonly map: SourceMap | undefined;
  /** The length of the rules of each sheet, in UTF-16 code units. */
  readonly lengths: ReadonlyMap<LinkedSheet, number>;
}

/** Prints a file of linked sheets. */
export function printSheetFile({ parts }: SheetFile, urls: SheetUrls, maps: boolean): PrintedSheet {
  const printer = new SheetPrinter(urls, new TextBuilder(maps));
  // `@charset` is only valid as the first bytes of a file.
  if (parts.flatMap(sheetsOf).some(({ record }) => record.hasCharset)) printer.out.add('@charset "UTF-8";\n');
  for (const part of parts) printer.part(part);
  return { text: printer.out.text, map: printer.out.map(), lengths: printer.lengths };
}

class SheetPrinter {
  readonly lengths = new Map<LinkedSheet, number>();

  constructor(
    private readonly urls: SheetUrls,
    readonly out: TextBuilder,
  ) {}

  part(part: Part): void {
    const { out } = this;
    switch (part.kind) {
      case 'body':
        return this.#body(part.sheet);
      case 'layers': {
        const { from } = part.sheet.record;
        out.copy(from, part.range.start, part.range.end);
        return out.add(from.text[part.range.end - 1] === ';' ? '\n' : ';\n');
      }
      case 'block': {
        const opened = blockStarts(part.conditions);
        for (const start of opened) out.add(`${start} {\n`);
        for (const one of part.parts) this.part(one);
        return out.add('}\n'.repeat(opened.length));
      }
      case 'import':
        return this.#import(part);
    }
  }

  #import({ file, from }: RemainingImport): void {
    const { out, urls } = this;
    if (!from) return out.add(`@import ${printString(urls.urlTo(file!))};\n`);
    const { record } = from.sheet;
    const { start, end, urlStart, urlEnd } = from.rule;
    out.copy(record.from, start, urlStart);
    if (file) out.add(printString(urls.urlTo(file)), record.from, urlStart);
    else out.copy(record.from, urlStart, urlEnd);
    out.copy(record.from, urlEnd, end);
    out.add(';\n');
  }

  #body(sheet: LinkedSheet): void {
    const { out, urls } = this;
    const { from, excluded, needsSemicolon } = sheet.record;
    const before = out.text.length;
    const news = urls.urlsOf(sheet);
    let at = 0;
    for (const { start, end } of excluded) {
      if (start > at) copyPiece(from, at, start, news, out);
      at = Math.max(at, end + /^\s*;?[ \t]*\n?/.exec(from.text.slice(end, end + 1000))![0].length);
    }
    const stop = endOfRules(from.text);
    if (stop > at) copyPiece(from, at, stop, news, out);
    out.add(needsSemicolon ? ';\n' : '\n');
    this.lengths.set(sheet, (this.lengths.get(sheet) ?? 0) + out.text.length - before);
  }
}

/** The at-rules whose blocks have the conditions of an import: the layer is the innermost (CSS Cascade Level 5, section 2.1). */
function blockStarts({ layer, supports, media }: ImportConditions): string[] {
  return [
    ...(media === '' ? [] : [`@media ${media}`]),
    // In parentheses, it may be a declaration or a condition.
    ...(supports === undefined ? [] : [`@supports (${supports})`]),
    ...(layer === undefined ? [] : [layer === '' ? '@layer' : `@layer ${layer}`]),
  ];
}
