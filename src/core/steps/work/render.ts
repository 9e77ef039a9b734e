import { posix } from 'node:path';
import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic, DiagnosticError, fail, nearestWord, type Place } from '../../diagnostics/index.js';
import { encodeText } from '../../files/text.js';
import { extensionOf } from '../../languages/formats.js';
import type { CopiedText } from '../../languages/source-maps/index.js';
import { dataVariables } from '../../templates/data.js';
import { languageOf, layoutExtensions } from '../../templates/index.js';
import { markdownToHtml } from '../../templates/markdown.js';
import {
  fileTemplate,
  findTemplate,
  pageTemplate,
  type Template,
  type TemplateHost,
  type Variables,
} from '../../templates/template.js';

/** Where templates find what they use. */
export interface RenderSettings {
  readonly layouts?: string;
  readonly parts?: string | readonly string[];
  readonly data?: string | readonly string[];
  /** The name of a list, with dots. */
  readonly each?: string;
  /** A Liquid template for the path of each page. */
  readonly path?: string;
}

/**
 * Renders a page, or a page for each entry of a list.
 *
 * @param path the path of the page, relative to the pipeline's `to`
 * @throws DiagnosticError with the mistakes in templates and data
 */
export async function renderPages(
  asset: Asset,
  path: string,
  settings: RenderSettings,
  context: StepContext,
): Promise<readonly Asset[]> {
  const pages = new PageRenderer(asset, settings, context);
  if (settings.each === undefined) return [await pages.render(path)];
  return pages.renderEach(settings.each, settings.path);
}

class PageRenderer {
  readonly #template: Template;
  readonly #data: Variables;

  constructor(
    private readonly asset: Asset,
    private readonly settings: RenderSettings,
    private readonly context: StepContext,
  ) {
    this.#template = pageTemplate(asset, context);
    this.#data = dataVariables([settings.data ?? 'data/*.{yaml,yml,json}'].flat(), context);
  }

  async renderEach(name: string, path: string | undefined): Promise<readonly Asset[]> {
    if (path === undefined) fail('render-path', { path: '', reason: '`each` needs `path`, the path of each page' });
    const written = new Set<string>();
    const pages: Asset[] = [];
    for (const entry of this.#listOf(name)) {
      const own = (await this.#renderPath(path, entry)).trim();
      const isInside = own !== '' && !own.startsWith('/') && posix.normalize(own) === own && !own.startsWith('..');
      if (!isInside) fail('render-path', { path, reason: `for ${shown(entry)} it is \`${own}\`` }, this.#here);
      if (written.has(own)) fail('render-path', { path, reason: `two entries lead to \`${own}\`` }, this.#here);
      written.add(own);
      pages.push({ ...(await this.render(own, { entry })), id: own });
    }
    return pages;
  }

  /** @param path the path of the page, relative to the pipeline's `to` */
  async render(path: string, more: Variables = {}): Promise<Asset> {
    const { settings, context } = this;
    const host: TemplateHost = {
      context,
      parts: [settings.parts ?? 'parts'].flat(),
      layouts: settings.layouts ?? 'layouts',
      pagePath: path,
      known: new Map(),
    };
    const own = { ...more, profile: context.settings.profile };
    const { text, map } = await this.#throughLayouts({ ...this.#template.values, path }, own, host);
    const { id, origins } = this.asset;
    return { id, path, bytes: encodeText(text), origins, isPristine: false, ...(context.settings.maps && { map }) };
  }

  get #here(): Place {
    return { file: this.#template.path };
  }

  /** Renders the template, and the layouts around it, from the inside. */
  async #throughLayouts(values: Variables, own: Variables, host: TemplateHost): Promise<CopiedText> {
    const used = new Set<string>();
    let [template, page, content] = [this.#template, values, undefined as CopiedText | undefined];
    for (;;) {
      const named: Record<string, unknown> = { ...own, page, ...(content && { content: content.text }) };
      const variables = Object.defineProperties(named, Object.getOwnPropertyDescriptors(this.#data));
      const rendered = await (await languageOf(template.path))(template, variables, host);
      const isMarkdown = extensionOf(template.path) === 'md';
      content = isMarkdown ? await markdownToHtml(rendered, template.path, this.context) : rendered;
      const { layout } = template.values;
      if (layout === undefined || layout === null || layout === false) return content;
      const path = this.#findLayout(String(layout), template, host);
      if (used.has(path)) fail('layout-cycle', { path }, { file: path });
      used.add(path);
      host.known.set(content.text, content);
      template = fileTemplate(path, this.context);
      // What a page sets is more specific than what its layout sets.
      page = { ...template.values, ...page };
    }
  }

  #findLayout(name: string, { path, text, start, place }: Template, { layouts }: TemplateHost): string {
    const found = findTemplate(name, [layouts], layoutExtensions, this.context);
    if (found !== undefined) return found;
    const names = this.context
      .list(`${layouts}/**/*`)
      .map((one) => posix.relative(layouts, one).replace(/\.[^.]+$/, ''));
    const at = text.slice(0, start).search(/^layout\s*:/m);
    const where = at < 0 ? { file: path } : place(at, at + 'layout'.length);
    return fail('template-missing', { name, folders: layouts, near: nearestWord(name, names) }, where);
  }

  async #renderPath(path: string, entry: unknown): Promise<string> {
    const { Liquid } = await import('liquidjs');
    try {
      const engine = new Liquid({ strictVariables: true, strictFilters: true });
      return engine.parseAndRenderSync(path, { entry }) as string;
    } catch (error) {
      return fail(
        'render-path',
        { path, reason: (error as Error).message.replace(/, (file|line):.*$/s, '') },
        this.#here,
      );
    }
  }

  /** The list of a name with dots. */
  #listOf(name: string): readonly unknown[] {
    let value: unknown = this.#data;
    for (const [at, part] of name.split('.').entries()) {
      if (typeof value !== 'object' || value === null || !Object.hasOwn(value, part)) {
        const near = nearestWord(part, Object.keys((value as object | null) ?? {}));
        throw new DiagnosticError(diagnostic('render-each', { name, near: at === 0 ? near : undefined }, this.#here));
      }
      value = (value as Record<string, unknown>)[part];
    }
    if (Array.isArray(value)) return value as unknown[];
    throw new DiagnosticError(diagnostic('render-each', { name, near: undefined }, this.#here));
  }
}

/** The beginning of a value, for messages. */
function shown(value: unknown): string {
  const text = JSON.stringify(value) ?? String(value);
  return text.length > 60 ? `${text.slice(0, 57)}…` : text;
}
