import { extensionOf } from '../languages/formats.js';
import type { RenderTemplate } from './template.js';

/** The template languages by extension; all other templates are Liquid. */
const languages: Readonly<Record<string, () => Promise<RenderTemplate>>> = {
  hbs: async () => (await import('./handlebars.js')).renderHandlebars,
  pug: async () => (await import('./pug.js')).renderPug,
};

/** Loads the language of a template. */
export async function languageOf(path: string): Promise<RenderTemplate> {
  const extension = extensionOf(path);
  if (Object.hasOwn(languages, extension)) return languages[extension]!();
  return (await import('./liquid.js')).renderLiquid;
}

/** The extensions that layouts may have, in the order in which they are searched. */
export const layoutExtensions = ['liquid', 'html', 'hbs'];
