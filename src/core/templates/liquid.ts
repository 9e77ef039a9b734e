import { posix } from 'node:path';
import type * as library from 'liquidjs';
import type { LiquidError, Template as Parsed, Token } from 'liquidjs';
import { diagnostic, fail, nearestWord, type Place } from '../diagnostics/index.js';
import { pageUrl } from './page-url.js';
import { emptyMap, type CopiedText } from '../languages/source-maps/index.js';
import { LiquidPieces } from './liquid-pieces.js';
import {
  fileTemplate,
  findTemplate,
  type RenderTemplate,
  type Template,
  type TemplateHost,
  type Variables,
} from './template.js';

/** The extensions of Liquid templates, which names may leave out. */
const extensions = ['liquid', 'html'];

/** Renders a Liquid template. */
export const renderLiquid: RenderTemplate = async (template, variables, host) => {
  const liquid = await import('liquidjs');
  return new LiquidRenderer(liquid, template, host).render(variables);
};

/** One template with its parts, as they are parsed for it. */
class LiquidRenderer {
  readonly #engine: library.Liquid;
  /** The templates that were read, by path. */
  readonly #templates = new Map<string, Template>();

  constructor(
    private readonly liquid: typeof library,
    private readonly template: Template,
    private readonly host: TemplateHost,
  ) {
    this.#templates.set(template.path, template);
    this.#engine = new liquid.Liquid({
      partials: [...host.parts],
      layouts: [host.layouts],
      root: [posix.dirname(template.path)],
      fs: this.#files(),
      cache: true,
      strictFilters: true,
      strictVariables: true,
      lenientIf: true,
      // The same on all machines.
      timezoneOffset: 0,
      locale: 'en-US',
    });
    this.#engine.registerFilter('url', (path: unknown) => pageUrl(String(path ?? ''), host.pagePath));
    if (host.context.settings.maps) new LiquidPieces(this.#engine, (token) => this.#templateOf(token), host.known);
    // A random choice is another one in each build.
    delete this.#engine.filters['sample'];
    const { date } = this.#engine.filters;
    const { context } = host;
    this.#engine.registerFilter('date', function (value: unknown, ...args: unknown[]) {
      if (value === 'now' || value === 'today') context.report(diagnostic('render-now', {}, { file: template.path }));
      return (typeof date === 'function' ? date : date!.handler).call(this, value, ...args) as unknown;
    });
  }

  render(variables: Variables): CopiedText {
    const { text, start, path } = this.template;
    const parsed = this.#attempt(() => this.#engine.parse(text.slice(start), path));
    for (;;) {
      const result = this.#attempt(() => this.#renderOnce(parsed, variables));
      if (typeof result === 'string') return this.host.known.get(result) ?? { text: result, map: emptyMap };
      this.#reportUnknown(result);
    }
  }

  /** The result, or a variable that is not known. */
  #renderOnce(parsed: Parsed[], variables: Variables): string | Token {
    try {
      return this.#engine.renderSync(parsed, {}, { globals: variables, sync: true }) as string;
    } catch (error) {
      if (isUnknownVariable(error)) return error.token;
      throw error;
    }
  }

  /** Reports an unknown variable, and makes it stand for nothing, so that those after it are found. */
  #reportUnknown(token: Token): void {
    const place = this.#placeOf(token);
    this.host.context.report(diagnostic('template-variable', { name: token.getText() }, place));
    const access = token as unknown as { variable: unknown; props: unknown[] };
    access.variable = new this.liquid.Tokenizer('nil').readValue();
    access.props = [];
  }

  #attempt<T>(work: () => T): T {
    try {
      return work();
    } catch (error) {
      if (!this.liquid.LiquidError.is(error)) throw error;
      return this.#fail(error);
    }
  }

  #fail(error: LiquidError): never {
    const { originalError: cause, token } = error;
    // What goes wrong in data files and nested templates is reported at its own place.
    if (cause && 'diagnostics' in cause) throw cause;
    const place = this.#placeOf(token);
    const [, name] = /^ENOENT: Failed to lookup "([^"]*)"/.exec(cause?.message ?? '') ?? [];
    if (name !== undefined) return fail('template-missing', { name, ...this.#nearest(name) }, place);
    const message = (cause?.message ?? error.message).replace(/, (file|line):.*$/s, '');
    return fail('template', { language: 'Liquid', message }, place);
  }

  #nearest(name: string): { readonly folders: string; readonly near: string | undefined } {
    const folders = [...this.host.parts, this.host.layouts];
    const names = folders.flatMap((folder) =>
      this.host.context.list(`${folder}/**/*`).map((path) => posix.relative(folder, path).replace(/\.[^.]+$/, '')),
    );
    return { folders: folders.join(', '), near: nearestWord(name, names) };
  }

  #placeOf(token: Token): Place {
    const { start, place } = this.#templateOf(token);
    return place(start + token.begin, start + token.end);
  }

  #templateOf({ file, input }: Token): Template {
    // Tokens of expressions do not name their file.
    const isOf = ({ text, start }: Template): boolean => text.slice(start) === input;
    return this.#templates.get(file ?? '') ?? [...this.#templates.values()].find(isOf) ?? this.template;
  }

  /** Files as templates name them, all through the context. */
  #files(): library.FS {
    const { context } = this.host;
    const read = (path: string): string => {
      const template = fileTemplate(path, context);
      this.#templates.set(path, template);
      return template.text.slice(template.start);
    };
    const exists = (path: string): boolean => context.exists(path);
    return {
      sep: '/',
      dirname: (path) => posix.dirname(path),
      resolve: (folder, name) => findTemplate(name, [folder], extensions, context) ?? posix.join(folder, name),
      // `findTemplate` does not leave the folder.
      containsSync: (folder, path) => !posix.relative(folder, path).startsWith('..'),
      contains: (folder, path) => Promise.resolve(!posix.relative(folder, path).startsWith('..')),
      exists: (path) => Promise.resolve(exists(path)),
      existsSync: exists,
      readFile: (path) => Promise.resolve(read(path)),
      readFileSync: read,
    };
  }
}

/** Reports whether an error means that a variable has no value: others come from the data, or from what is called. */
const isUnknownVariable = (error: unknown): error is LiquidError =>
  error instanceof Error &&
  error.name === 'UndefinedVariableError' &&
  (error as LiquidError).originalError?.name === 'InternalUndefinedVariableError';
