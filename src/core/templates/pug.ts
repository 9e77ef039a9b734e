import type * as library from 'pug';
import { posix } from 'node:path';
import type { StepContext } from '../assets/context.js';
import { importedText } from '../assets/imported-text.js';
import { diagnostic, DiagnosticError, type Place } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { emptyMap, type CopiedText } from '../languages/source-maps/index.js';
import { pageUrl } from './page-url.js';
import { projectPackage } from './project-package.js';
import { markNodes } from './pug-marks.js';
import { fileTemplate, findTemplate, type RenderTemplate, type Template, type TemplateHost } from './template.js';
import { TextMarks } from './text-marks.js';

export type Pug = typeof library;

/** Loads the compiler that the project has installed. */
export const loadPug = (file: string, context: StepContext): Promise<Pug> => projectPackage<Pug>('pug', file, context);

/** Renders a Pug template. */
export const renderPug: RenderTemplate = async (template, variables, host) => {
  const pug = await loadPug(template.path, host.context);
  const folders = [...host.parts, host.layouts];
  const options = pugOptions(template, folders, host.context);
  const url = (path: unknown): string => pageUrl(String(path), host.pagePath);
  const names = new Set<string>();
  const known = Object.defineProperties({ url }, Object.getOwnPropertyDescriptors(variables));
  const noted = new Proxy(known, {
    has(target, name) {
      if (typeof name === 'string' && !(name in target) && !(name in globalThis)) names.add(name);
      return name in target;
    },
  });
  const render = (marking: library.Options): string => pug.compile(textForPug(template), marking)(noted);
  const html = explained(template, host.context, () => render(options));
  for (const name of names) if (name !== 'pug') reportUnknown(name, template, host.context);
  return host.context.settings.maps
    ? placedTexts(html, template, host, options, render)
    : { text: html, map: emptyMap };
};

/** The text with its mappings: the template is rendered once more, with marks. */
function placedTexts(
  html: string,
  template: Template,
  { context, known }: TemplateHost,
  options: library.Options,
  render: (options: library.Options) => string,
): CopiedText {
  const templates = new Map([[template.path, template]]);
  const templateOf = (file = template.path): Template => {
    const found = templates.get(file) ?? fileTemplate(file, context);
    templates.set(file, found);
    return found;
  };
  const marks = new TextMarks();
  const { plugins } = options as { readonly plugins: readonly object[] };
  const marking = {
    preCodeGen(root: Parameters<typeof markNodes>[0]) {
      markNodes(root, templateOf, marks);
      return root;
    },
  };
  return marks.placed(html, () => render({ ...options, ...({ plugins: [...plugins, marking] } as object) }), known);
}

/** The text of a template, with empty lines instead of its front matter, so that the numbers of lines stay. */
export const textForPug = ({ text, start }: Template): string =>
  text.slice(0, start).replace(/[^\n]/g, '') + text.slice(start);

/** Options with which all files are read through the context. */
export function pugOptions(template: Template, folders: readonly string[], context: StepContext): library.Options {
  const plugin = {
    resolve(name: string, from: string): string {
      const beside = name.startsWith('/') ? name : posix.join(posix.dirname(from), name);
      const find = (path: string, among: readonly string[]): string | undefined =>
        findTemplate(path, among, ['pug'], context);
      return find(beside, ['.']) ?? find(name, folders) ?? name;
    },
    read(path: string): string {
      const text = importedText(path, context);
      if (text === undefined) throw new Error(`there is no file ${path}`);
      return text;
    },
  };
  return { filename: template.path, doctype: 'html', ...({ plugins: [plugin] } as object) };
}

/** An error of Pug. */
interface Failure extends Error {
  readonly msg?: string;
  readonly line?: number;
  readonly column?: number;
  readonly filename?: string;
}

/** Compiles or renders; errors become diagnostics at their places. */
export function explained<T>(template: Template, context: StepContext, work: () => T): T {
  try {
    return work();
  } catch (error) {
    if (error instanceof DiagnosticError) throw error;
    const failure = error as Failure;
    // e.g. pages/stars.pug:2\n  > 2| …\n\nCannot read properties of undefined (reading 'name')
    const [, file = failure.filename, row = failure.line] = /^(.*\.pug):(\d+)(?::\d+)?\n/.exec(failure.message) ?? [];
    const isPlace = (line: string): boolean => /^\s+at .* line \d+$/.test(line);
    const message = failure.msg ?? failure.message.split('\n').findLast((line) => line !== '' && !isPlace(line))!;
    const place = placeIn(file ?? template.path, Number(row ?? 1), failure.column ?? 1, template, context);
    throw new DiagnosticError(diagnostic('template', { language: 'Pug', message }, place));
  }
}

function placeIn(file: string, line: number, column: number, template: Template, context: StepContext): Place {
  const position = { line, column };
  const range = { start: position, end: position };
  if (file === template.path) return { file, text: template.text, range };
  const bytes = context.read(file);
  return bytes ? { file, text: decodeText(bytes, file), range } : { file: template.path };
}

function reportUnknown(name: string, template: Template, context: StepContext): void {
  const at = new RegExp(`(?<![\\w$.])${name.replaceAll('$', '\\$&')}(?![\\w$])`).exec(
    template.text.slice(template.start),
  );
  const start = at ? template.start + at.index : undefined;
  const place = start === undefined ? { file: template.path } : template.place(start, start + name.length);
  context.report(diagnostic('template-variable', { name }, place));
}
