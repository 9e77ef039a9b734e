import { posix } from 'node:path';
import type { OutputFile } from '../build/memo.js';
import { decodeText } from '../files/text.js';
import { formatOf, kindOf } from '../languages/formats.js';
import { edited, type Edit } from '../languages/edits.js';
import { targetPath, type InlinePlace, type Reference, type SiteFolder } from '../languages/references/index.js';
import { urlBetween } from '../languages/relative-url.js';
import type { Link, Names, UnnamedOutput } from './names.js';
import { bodyOf } from './renamed-url.js';

/** Everything that writing files into others needs. */
export interface InlineRequest {
  readonly names: Names;
  readonly site: SiteFolder;
  /** The size in bytes up to which files are written into others without being asked for. */
  readonly limit: number;
  /** The bytes of an output before naming; undefined if they are no longer available. */
  readonly read: (file: OutputFile) => Uint8Array | undefined;
}

/** Writes the content of files in place of references to them. */
export class Inliner {
  constructor(private readonly request: InlineRequest) {}

  /** The place at which the target of a reference is written; undefined where it is not. */
  placeOf({ reference, target }: Link): InlinePlace | undefined {
    const { inline, url } = reference;
    const { file, publishedAs } = target;
    if (!inline || inline.isImpossible || publishedAs !== undefined || /[?#]/.test(url)) return undefined;
    if (inline.isAsked !== true && file.bytes > this.request.limit) return undefined;
    const { names } = this.request;
    const isFitting =
      inline.kind === 'picture'
        ? formatOf(file.path)?.mediaType !== undefined
        : kindOf(file.path) === (inline.kind === 'style' ? 'style' : 'script');
    // A module is evaluated once, however often it is referred to.
    if (inline.kind === 'module' && names.linkCount(target) > 1) return undefined;
    // Other files than sheets may mean something else where they are written.
    const isIndependent = inline.kind === 'style' || names.linksOf(target).length === 0;
    return isFitting && isIndependent ? inline : undefined;
  }

  /**
   * The text in place of a reference.
   *
   * @param from the output that contains it
   * @param raw the text at the place
   * @returns undefined if the file cannot be written there, or its bytes are no longer available
   */
  textOf(from: UnnamedOutput, { reference, target }: Link, raw: string): string | undefined {
    const { kind, tag = '' } = reference.inline!;
    const bytes = this.request.read(target.file);
    if (!bytes) return undefined;
    if (kind === 'picture') {
      const [start, end] = bodyOf(raw);
      const data = Buffer.from(bytes).toString('base64');
      return `${raw.slice(0, start)}data:${formatOf(target.file.path)!.mediaType!};base64,${data}${raw.slice(end)}`;
    }
    const text = decodeText(bytes, target.file.path);
    const code = withoutMap(kind === 'style' ? this.#rebased(from, target, text) : text, target).trim();
    // The parser would end the element there, or read the code in another way (HTML, section 13.2.5.4).
    if (/<\/?(?:script|style)|<!--/i.test(code) || (kind === 'style' && /^@charset/i.test(code))) return undefined;
    // Scripts that refer to modules, or to their own URL, would mean something else.
    if (kind !== 'style' && /\b(?:import|export|currentScript)\b/.test(code)) return undefined;
    return `${tag}${code}</${kind === 'style' ? 'style' : 'script'}>`;
  }

  /** A style sheet with URLs that are relative to another file. */
  #rebased(from: UnnamedOutput, sheet: UnnamedOutput, text: string): string {
    const { names, site } = this.request;
    const links = new Map(names.linksOf(sheet).map(({ reference, target }) => [reference, target]));
    const folder = posix.dirname(from.file.path);
    const edits = (sheet.references?.references ?? []).flatMap((reference): Edit[] => {
      const target = links.get(reference);
      const path = target ? names.pathOf(target) : targetPath(reference.url, sheet.file.path, site);
      // What is relative to the site stays so, and only gets another name.
      const isAbsolute = reference.url.startsWith('/');
      if (path === undefined || reference.isOptional || (isAbsolute && !target)) return [];
      const url = isAbsolute ? `/${urlBetween(site.folder ?? '.', path)}` : urlBetween(folder, path);
      return [{ start: reference.start, end: reference.end, text: rebasedUrl(reference, text, url) }];
    });
    return edited(text, edits);
  }
}

/** A reference with another path; its query and fragment stay. */
function rebasedUrl({ url, start, end }: Reference, text: string, path: string): string {
  const written = path.replace(/['()]/g, (character) => `%${character.charCodeAt(0).toString(16)}`);
  const rest = url.replace(/^[^?#]*/, '').replace(/[\s"'()\\]/g, encodeURIComponent);
  return /^["']/.test(text.slice(start, end)) ? `"${written}${rest}"` : `url(${written}${rest})`;
}

/** A text without the comment that names its source map. */
function withoutMap(text: string, { map }: UnnamedOutput): string {
  return map ? text.replace(/\n(?:\/\/|\/\*)# sourceMappingURL=\S+(?: \*\/)?\s*$/, '\n') : text;
}
