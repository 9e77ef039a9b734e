import type * as library from 'handlebars';
import { posix } from 'node:path';
import { importedText } from '../assets/imported-text.js';
import { diagnostic, fail, nearestWord, type Place } from '../diagnostics/index.js';
import { pageUrl } from './page-url.js';
import { projectPackage } from './project-package.js';
import { findTemplate, type RenderTemplate, type Template, type TemplateHost } from './template.js';

export type Handlebars = typeof library;

const extensions = ['hbs'];

/** Loads the compiler that the project has installed, in a state of its own. */
export async function loadHandlebars(file: string, context: TemplateHost['context']): Promise<Handlebars> {
  const loaded = await projectPackage<Handlebars>('handlebars', file, context);
  // New environments have no visitor.
  return Object.assign(loaded.create(), { Visitor: loaded.Visitor });
}

/** Renders a Handlebars template. */
export const renderHandlebars: RenderTemplate = async (template, variables, host) => {
  const handlebars = await loadHandlebars(template.path, host.context);
  handlebars.registerHelper('url', (path: unknown) => pageUrl(String(path), host.pagePath));
  const templates = [template];
  const parts = new Set<string>();
  const parse = (one: Template): void => {
    for (const { name, start, end } of partsOf(handlebars, one)) {
      if (parts.has(name)) continue;
      parts.add(name);
      const part = readPart(name, host) ?? missingPart(name, one.place(start, end), host);
      templates.push(part);
      handlebars.registerPartial(name, part.text);
      parse(part);
    }
  };
  parse(template);
  // Unknown variables are mistakes at first, so that they are found, and nothing afterwards.
  const render = (strict: boolean): string =>
    handlebars.compile(template.text.slice(template.start), { strict })(variables, {
      allowProtoPropertiesByDefault: false,
    });
  try {
    return render(true);
  } catch (error) {
    const { message, lineNumber: line, column } = error as Partial<Failure> & Error;
    const [, name] = /^"(.*)" not defined in /.exec(message) ?? [];
    const place = placeAt(templates, line, column, name);
    if (name === undefined) return fail('template', { language: 'Handlebars', message }, place);
    host.context.report(diagnostic('template-variable', { name }, place));
  }
  try {
    return render(false);
  } catch (error) {
    return fail('template', { language: 'Handlebars', message: (error as Error).message }, template.place(0, 0));
  }
};

/** An error of Handlebars, with the place of the expression. */
interface Failure {
  readonly message: string;
  readonly lineNumber: number;
  readonly column: number;
}

/** A part that a template names by a constant. */
interface PartName {
  readonly name: string;
  readonly start: number;
  readonly end: number;
}

/**
 * Parses a template, and lists the parts that it names.
 *
 * @throws DiagnosticError if its syntax is wrong
 */
export function partsOf(handlebars: Handlebars, template: Template): PartName[] {
  const text = template.text.slice(template.start);
  const found: PartName[] = [];
  const Visitor = class extends handlebars.Visitor {
    override PartialStatement(node: hbs.AST.PartialStatement): void {
      this.#add(node.name, node.loc);
      super.PartialStatement(node);
    }

    override PartialBlockStatement(node: hbs.AST.PartialBlockStatement): void {
      this.#add(node.name, node.loc);
      super.PartialBlockStatement(node);
    }

    #add(name: hbs.AST.PartialStatement['name'], { start, end }: hbs.AST.SourceLocation): void {
      if (!('original' in name) || String(name.original).startsWith('@')) return;
      const offset = ({ line, column }: hbs.AST.Position): number => template.start + offsetAt(text, line, column);
      found.push({ name: String(name.original), start: offset(start), end: offset(end) });
    }
  };
  try {
    new Visitor().accept(handlebars.parse(text));
  } catch (error) {
    const { message, lineNumber, column } = error as Partial<Failure> & Error;
    // e.g. Parse error on line 2:\n…{{#if}}x\n---------^\nExpecting …
    const line = lineNumber ?? Number(/line (\d+)/.exec(message)?.[1] ?? 1);
    const reason = /Expecting .*/.exec(message)?.[0] ?? message;
    const at = template.start + offsetAt(text, line, column ?? 0);
    return fail('template', { language: 'Handlebars', message: reason }, template.place(at, at + 1));
  }
  return found;
}

function readPart(name: string, { parts, context }: TemplateHost): Template | undefined {
  const path = findTemplate(name, parts, extensions, context);
  const text = path === undefined ? undefined : importedText(path, context);
  if (path === undefined || text === undefined) return undefined;
  return { path, text, start: 0, place: (start, end) => ({ file: path, text, offsets: [start, end] }) };
}

function missingPart(name: string, place: Place, { parts, context }: TemplateHost): never {
  const names = parts.flatMap((folder) =>
    context.list(`${folder}/**/*.hbs`).map((path) => posix.relative(folder, path).replace(/\.hbs$/, '')),
  );
  return fail('template-missing', { name, folders: parts.join(', '), near: nearestWord(name, names) }, place);
}

/** The place of an expression: errors do not tell in which of the templates it is. */
function placeAt(
  templates: readonly Template[],
  line: number | undefined,
  column: number | undefined,
  name: string | undefined,
): Place {
  const [page] = templates;
  if (line === undefined || column === undefined) return { file: page!.path };
  for (const { text, start, place } of templates) {
    const at = start + offsetAt(text.slice(start), line, column);
    const length = name === undefined ? 0 : text.slice(at, at + 200).indexOf(name);
    if (length >= 0 && at < text.length) return place(at + length, at + length + (name?.length ?? 1));
  }
  return { file: page!.path };
}

/** The offset of a line, from 1, and a column, from 0. */
function offsetAt(text: string, line: number, column: number): number {
  let offset = 0;
  for (let at = 1; at < line; at++) {
    const next = text.indexOf('\n', offset);
    if (next < 0) break;
    offset = next + 1;
  }
  return Math.min(offset + column, text.length);
}
