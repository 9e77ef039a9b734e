import { Field } from '../config/field.js';
import { dataName, folder, folderList, text, textList } from '../config/value-types.js';
import { extensionOf, formatOf } from '../languages/formats.js';
import type { Claim } from '../config/steps.js';
import type { Step } from './step.js';

/** Options of `render`. */
export class RenderOptions {
  @Field(folder, {
    doc: 'The folder of layouts: a page names its layout in its front matter, and the layout has the page as `content`.',
    default: '`layouts`',
  })
  layouts?: string;

  @Field(folderList, { doc: 'Folders of parts, which templates include by their names.', default: '`parts`' })
  parts?: string | readonly string[];

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of YAML and JSON files, relative to the project. Each is a variable with the name of the file.',
    default: '`data/*.{yaml,yml,json}`',
  })
  data?: string | readonly string[];

  @Field(dataName, {
    doc: 'A list in the data, such as `stars` or `catalogue.stars`: each template makes a page for each of its entries, which is the variable `entry`.',
    default: 'none',
  })
  each?: string;

  @Field(text, {
    doc: 'The path of a page for an entry, relative to `to`: a Liquid template such as `stars/{{ entry.id }}.html`. Required with `each`.',
    default: 'none',
  })
  path?: string;
}

/** Makes pages from templates. */
export const render: Step<RenderOptions> = {
  name: 'render',
  doc: 'Makes pages from Liquid, Markdown, Handlebars and Pug templates, with layouts, parts and data.',
  version: 3,
  options: RenderOptions,
  mainOption: 'layouts',
  gathers: () => false,
  settings: () => ['maps', 'profile'],
  toolVersions: () => ['liquidjs'],
  runsInProcess: () => true,
  runsSource: (path) => formatOf(path)?.compiler === 'pug',
  claims: (paths, { each, path }) =>
    each === undefined || path === undefined ? paths.map(renderedPath) : [claimOf(path)],
  async run([asset], options, context) {
    const { renderPages } = await import('./work/render.js');
    return renderPages(asset!, renderedPath(asset!.path), options, context);
  },
};

/** The extensions of templates that become those of pages. */
const pageExtensions: ReadonlySet<string> = new Set(['md', 'hbs', 'pug', 'liquid']);

/**
 * The path of a page.
 *
 * @example
 * renderedPath('hours.md') // 'hours.html'
 * renderedPath('feed.xml.liquid') // 'feed.xml'
 */
function renderedPath(path: string): string {
  if (!pageExtensions.has(extensionOf(path))) return path;
  const rest = path.slice(0, path.lastIndexOf('.'));
  return extensionOf(rest) === '' ? `${rest}.html` : rest;
}

/** The files that a template for paths may lead to: its values are only known from the data. */
function claimOf(path: string): Claim {
  const folders = path.replaceAll(/\{\{.*?\}\}|\{%.*?%\}/gs, '*').split('/');
  const fixed = folders.slice(0, -1).findIndex((one) => one.includes('*'));
  const depth = fixed < 0 ? folders.length - 1 : fixed;
  return { within: folders.slice(0, depth).join('/') || '.', pattern: folders.slice(depth).join('/') };
}
