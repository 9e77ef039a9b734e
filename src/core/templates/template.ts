import type { StepContext } from '../assets/context.js';
import type { Place } from '../diagnostics/index.js';

/** A template: the text of a page, a layout or a part. */
export interface Template {
  /** Relative to the project. */
  readonly path: string;
  /** The text of the whole file. */
  readonly text: string;
  /** The offset after its front matter. */
  readonly start: number;
  /** The place of a range of the text. */
  place(start: number, end: number): Place;
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
}

/**
 * Renders a template.
 *
 * @throws DiagnosticError with the mistakes in templates; unknown variables are reported as warnings
 */
export type RenderTemplate = (template: Template, variables: Variables, host: TemplateHost) => Promise<string>;

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
