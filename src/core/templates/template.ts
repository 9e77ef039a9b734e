import { copiedText, textOf, type Asset } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import { importedText } from '../assets/imported-text.js';
import type { Place } from '../diagnostics/index.js';
import { emptyMap, identityMap, type CopiedText } from '../languages/source-maps/index.js';
import { readFrontMatter } from './front-matter.js';
import type { KnownTexts } from './rendered-text.js';

/** A template: the text of a page, a layout or a part. */
export interface Template {
  /** Relative to the project. */
  readonly path: string;
  /** The text of the whole file. */
  readonly text: string;
  /** The offset after its front matter. */
  readonly start: number;
  /** What its front matter sets. */
  readonly values: Variables;
  /** The text with its mappings to the sources, when maps are on. */
  readonly copied: CopiedText;
  /** The place of a range of the text. */
  place(start: number, end: number): Place;
}

/** The text of a page as a template. */
export function pageTemplate(asset: Asset, context: StepContext): Template {
  const path = asset.origins[0] ?? asset.path;
  const text = textOf(asset);
  const place = (from: number, to: number): Place => context.place(asset, text, from, to);
  return { path, text, ...readFrontMatter(path, text), copied: copiedText(asset, text, context.settings.maps), place };
}

/** A layout or a part; an empty one if the file does not exist. */
export function fileTemplate(path: string, context: StepContext): Template {
  const text = importedText(path, context) ?? '';
  const map = context.settings.maps ? identityMap(path, text) : emptyMap;
  const place = (from: number, to: number): Place => ({ file: path, text, offsets: [from, to] });
  return { path, text, ...readFrontMatter(path, text), copied: { text, map }, place };
}

/** What the variables of a template stand for, by name. */
export type Variables = Readonly<Record<string, unknown>>;

/** Everything around a page that its template language needs. */
export interface TemplateHost {
  readonly context: StepContext;
  /** The folders of parts, in the order in which they are searched. */
  readonly parts: readonly string[];
  readonly layouts: string;
  /** The path of the page that is made, relative to the pipeline's `to`. */
  readonly pagePath: string;
  /** What the template may print of what was rendered before it. */
  readonly known: KnownTexts;
}

/**
 * Renders a template.
 *
 * @returns the text, with its mappings to the templates when maps are on
 * @throws DiagnosticError with the mistakes in templates; unknown variables are reported as warnings
 */
export type RenderTemplate = (template: Template, variables: Variables, host: TemplateHost) => Promise<CopiedText>;

/** A part or a layout that templates refer to by its path in one of some folders, with or without its extension. */
export function findTemplate(
  name: string,
  folders: readonly string[],
  extensions: readonly string[],
  context: StepContext,
): string | undefined {
  for (const folder of folders)
    for (const end of ['', ...extensions.map((one) => `.${one}`)]) {
      const path = joinBelow(folder, name + end);
      if (path !== undefined && context.exists(path)) return path;
    }
  return undefined;
}

/** A path in a folder; undefined if it leads out of it. */
function joinBelow(folder: string, name: string): string | undefined {
  const parts: string[] = [];
  for (const part of name.split('/')) {
    if (part === '..' && parts.pop() === undefined) return undefined;
    if (part !== '' && part !== '.' && part !== '..') parts.push(part);
  }
  return parts.length === 0 ? undefined : [...(folder === '.' ? [] : [folder]), ...parts].join('/');
}
