import { PbfReader, PbfWriter } from 'pbf';

/**
 * The messages of the Embedded Sass Protocol, version 3 (Sass specification, embedded-protocol.md and
 * embedded_sass.proto), as far as they are needed: compiling a text, with one importer for all files. Field numbers are
 * those of the specification.
 */

/** The syntaxes of sheets, by their numbers. */
const syntaxes = ['scss', 'indented', 'css'] as const;

export type Syntax = (typeof syntaxes)[number];

/** A sheet to compile. */
export interface Sheet {
  readonly source: string;
  readonly syntax: Syntax;
  /** The URL of the style sheet, which relative URLs are resolved against. */
  readonly url: string;
  /** True to request a source map that includes the sources. */
  readonly maps: boolean;
}

/** A sheet that another one loads. */
export interface LoadedSheet {
  readonly contents: string;
  readonly syntax: Syntax;
  readonly sourceMapUrl: string;
}

/** A position in a sheet, 0-based. */
export interface Position {
  readonly line: number;
  readonly column: number;
}

/** A stretch of a sheet. */
export interface Span {
  readonly start: Position;
  readonly end: Position;
  /** Empty for the text of an expression that is not in a sheet. */
  readonly url: string;
}

/** A message that the compiler logs while it runs. */
export interface LogEvent {
  readonly kind: 'warning' | 'deprecation' | 'debug';
  readonly message: string;
  readonly span?: Span;
  readonly stack: string;
  /** The name of the deprecation. */
  readonly deprecation: string;
}

/** A message of the compiler. */
export type Outbound =
  | { readonly is: 'refusal'; readonly message: string }
  | { readonly is: 'compiled'; readonly css: string; readonly sourceMap: string }
  | { readonly is: 'failed'; readonly message: string; readonly span: Span }
  | { readonly is: 'said'; readonly event: LogEvent }
  | {
      readonly is: 'canonicalize';
      readonly id: number;
      readonly url: string;
      readonly fromImport: boolean;
      /** The importing sheet; empty if the compiler does not send it. */
      readonly from: string;
    }
  | { readonly is: 'load'; readonly id: number; readonly url: string };

/** The response to a request of the compiler: the result, nothing, or an error. */
export type Answer<Found> = { readonly found: Found | undefined } | { readonly problem: string };

/** One importer handles both relative and absolute loads; the compiler distinguishes them. */
const relativeImporter = 0;
const otherImporter = 1;

/**
 * The request to compile a sheet.
 *
 * @param scheme of URLs for which the importer receives the URL of the importing sheet
 */
export function compileRequest(sheet: Sheet, scheme: string): Uint8Array {
  const importer = (id: number, to: PbfWriter): void => {
    to.writeVarintField(2, id);
    to.writeStringField(4, scheme);
  };
  const input = (_: Sheet, to: PbfWriter): void => {
    to.writeStringField(1, sheet.source);
    to.writeStringField(2, sheet.url);
    to.writeVarintField(3, syntaxes.indexOf(sheet.syntax));
    to.writeMessage(4, importer, relativeImporter);
  };
  return message(2, (to) => {
    to.writeMessage(2, input, sheet);
    to.writeBooleanField(5, sheet.maps);
    to.writeMessage(6, importer, otherImporter);
    // The caller counts repeated warnings, so every one is forwarded.
    to.writeBooleanField(10, true);
    to.writeBooleanField(12, sheet.maps);
    to.writeBooleanField(13, true);
  });
}

/** The answer to `canonicalize`: the URL of a file. */
export function canonicalizeResponse(id: number, answer: Answer<string>): Uint8Array {
  return message(3, (to) => {
    to.writeVarintField(1, id);
    if ('problem' in answer) to.writeStringField(3, answer.problem);
    else if (answer.found !== undefined) to.writeStringField(2, answer.found);
  });
}

/** The answer to `load`: a sheet. */
export function loadResponse(id: number, answer: Answer<LoadedSheet>): Uint8Array {
  return message(4, (to) => {
    to.writeVarintField(1, id);
    if ('problem' in answer) to.writeStringField(3, answer.problem);
    else if (answer.found) to.writeMessage(2, writeSheet, answer.found);
  });
}

function writeSheet({ contents, syntax, sourceMapUrl }: LoadedSheet, to: PbfWriter): void {
  to.writeStringField(1, contents);
  to.writeVarintField(2, syntaxes.indexOf(syntax));
  to.writeStringField(3, sourceMapUrl);
}

function message(field: number, write: (to: PbfWriter) => void): Uint8Array {
  const to = new PbfWriter();
  to.writeMessage(field, (_, inner) => write(inner), undefined);
  return to.finish();
}

/** Decodes a message of the compiler; undefined for unknown ones. */
export function readOutbound(bytes: Uint8Array): Outbound | undefined {
  const outer = new Fields(bytes);
  for (const [field, read] of readers) {
    const inner = outer.message(field);
    if (inner) return read(inner);
  }
  return undefined;
}

const readers: readonly (readonly [field: number, read: (fields: Fields) => Outbound])[] = [
  [1, (fields) => ({ is: 'refusal', message: fields.text(3) })],
  [2, readCompileResponse],
  [3, readLogEvent],
  [
    4,
    (fields) => ({
      is: 'canonicalize',
      id: fields.number(1),
      url: fields.text(4),
      fromImport: fields.number(5) === 1,
      from: fields.text(6),
    }),
  ],
  [5, (fields) => ({ is: 'load', id: fields.number(1), url: fields.text(4) })],
];

function readCompileResponse(fields: Fields): Outbound {
  const failure = fields.message(3);
  if (failure) return { is: 'failed', message: failure.text(1), span: readSpan(failure.message(2)) };
  const success = fields.message(2);
  return { is: 'compiled', css: success?.text(1) ?? '', sourceMap: success?.text(2) ?? '' };
}

const kinds = ['warning', 'deprecation', 'debug'] as const;

function readLogEvent(fields: Fields): Outbound {
  const span = fields.message(4);
  const event: LogEvent = {
    kind: kinds[fields.number(2)] ?? 'warning',
    message: fields.text(3),
    ...(span && { span: readSpan(span) }),
    stack: fields.text(5),
    deprecation: fields.text(7),
  };
  return { is: 'said', event };
}

function readSpan(fields: Fields | undefined): Span {
  const start = readPosition(fields?.message(2));
  // An empty stretch has no end.
  return { start, end: readPosition(fields?.message(3), start), url: fields?.text(4) ?? '' };
}

function readPosition(fields: Fields | undefined, otherwise: Position = { line: 0, column: 0 }): Position {
  return fields ? { line: fields.number(2), column: fields.number(3) } : otherwise;
}

/** The fields of a message by number; omitted ones have the default values of the format. */
class Fields {
  readonly #values = new Map<number, number | Uint8Array>();

  constructor(bytes: Uint8Array) {
    const from = new PbfReader(bytes);
    for (let field = from.nextField(); field !== 0; field = from.nextField())
      this.#values.set(field, from.type === lengthDelimited ? from.readBytes() : from.readVarint());
  }

  number(field: number): number {
    const value = this.#values.get(field);
    return typeof value === 'number' ? value : 0;
  }

  text(field: number): string {
    const value = this.#values.get(field);
    return value instanceof Uint8Array ? decoder.decode(value) : '';
  }

  message(field: number): Fields | undefined {
    const value = this.#values.get(field);
    return value instanceof Uint8Array ? new Fields(value) : undefined;
  }
}

/** The wire type of texts and messages (Protocol Buffers, encoding, "message structure"). */
const lengthDelimited = 2;

const decoder = new TextDecoder('utf-8', { ignoreBOM: true });
