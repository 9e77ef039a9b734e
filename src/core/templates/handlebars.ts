import type * as library from 'handlebars';
import { posix } from 'node:path';
import { diagnostic, fail, nearestWord, type Place } from '../diagnostics/index.js';
import { emptyMap } from '../languages/source-maps/index.js';
import { markTexts } from './handlebars-marks.js';
import { offsetAt } from './line-offset.js';
import { pageUrl } from './page-url.js';
import { projectPackage } from './project-package.js';
import { TextMarks } from './text-marks.js';
import { fileTemplate, findTemplate, type RenderTemplate, type Template, type TemplateHost } from './template.js';

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
  placeErrors(handlebars);
  const templates = new Map([['', template]]);
  const parse = (one: Template): void => {
    for (const { name, start, end } of partsOf(handlebars, one)) {
      if (templates.has(name)) continue;
      const part = readPart(name, host) ?? missingPart(name, one.place(start, end), host);
      templates.set(name, part);
      parse(part);
    }
  };
  parse(template);
  const run = (inputOf: (one: Template) => string | hbs.AST.Program, strict: boolean): string => {
    const compile = (one: Template): HandlebarsTemplateDelegate =>
      handlebars.compile(inputOf(one), { strict, srcName: one.path } as CompileOptions);
    for (const [name, part] of templates) if (name !== '') handlebars.registerPartial(name, compile(part));
    return compile(template)(variables, { allowProtoPropertiesByDefault: false });
  };
  // Unknown variables are mistakes at first, so that they are found, and nothing afterwards.
  const render = (): string => {
    try {
      return run(textOf, true);
    } catch (error) {
      const name = unknownNameIn(error as Error);
      const place = placeOf(error as Failure, [...templates.values()], name);
      if (name === undefined) return failAt(error as Error, place);
      host.context.report(diagnostic('template-variable', { name }, place));
    }
    try {
      return run(textOf, false);
    } catch (error) {
      return failAt(error as Error, placeOf(error as Failure, [...templates.values()], undefined));
    }
  };
  const text = render();
  if (!host.context.settings.maps) return { text, map: emptyMap };
  const marks = new TextMarks();
  return marks.placed(text, () => run((one) => markTexts(handlebars, one, marks), false), host.known);
};

const failAt = ({ message }: Error, place: Place): never =>
  fail('template', { language: 'Handlebars', message }, place);

/** The variable that a template does not know, if that is what an error says. */
const unknownNameIn = ({ message }: Error): string | undefined => /^"(.*)" not defined in /.exec(message)?.[1];

/** Makes errors of helpers tell where they were called, which only their options know. */
function placeErrors(handlebars: Handlebars): void {
  for (const [name, helper] of Object.entries(handlebars.helpers)) {
    handlebars.registerHelper(name, function (this: unknown, ...args: unknown[]): unknown {
      try {
        return helper.apply(this, args as Parameters<typeof helper>);
      } catch (error) {
        const { loc } = args.at(-1) as library.HelperOptions & { readonly loc?: hbs.AST.SourceLocation };
        const failure = error as { lineNumber?: number; calledAt?: hbs.AST.SourceLocation | undefined };
        // The innermost call is the cause.
        if (failure.lineNumber === undefined) failure.calledAt ??= loc;
        throw error;
      }
    });
  }
}

/** What is rendered of a template. */
const textOf = ({ text, start }: Template): string => text.slice(start);

/** An error of Handlebars, with the place of the expression. */
interface Failure {
  readonly message: string;
  readonly lineNumber: number;
  readonly column: number;
  /** The call of the helper that has thrown it. */
  readonly calledAt?: hbs.AST.SourceLocation;
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
  return path === undefined ? undefined : fileTemplate(path, context);
}

function missingPart(name: string, place: Place, { parts, context }: TemplateHost): never {
  const names = parts.flatMap((folder) =>
    context.list(`${folder}/**/*.hbs`).map((path) => posix.relative(folder, path).replace(/\.hbs$/, '')),
  );
  return fail('template-missing', { name, folders: parts.join(', '), near: nearestWord(name, names) }, place);
}

/** The place of an error: those of expressions do not tell in which of the templates they are. */
function placeOf(
  { lineNumber: line, column, calledAt }: Partial<Failure>,
  templates: readonly Template[],
  name: string | undefined,
): Place {
  const [page] = templates;
  const called = calledAt && templates.find(({ path }) => path === calledAt.source);
  if (calledAt && called) {
    const [from, to] = [calledAt.start, calledAt.end].map(
      (at) => called.start + offsetAt(textOf(called), at.line, at.column),
    );
    return called.place(from!, to!);
  }
  if (line === undefined || column === undefined) return { file: page!.path };
  for (const { text, start, place } of templates) {
    const at = start + offsetAt(text.slice(start), line, column);
    const length = name === undefined ? 0 : text.slice(at, at + 200).indexOf(name);
    if (length >= 0 && at < text.length) return place(at + length, at + length + (name?.length ?? 1));
  }
  return { file: page!.path };
}
