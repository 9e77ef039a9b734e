import { extensionsWhere, formats, type Format } from '../languages/formats.js';
import type { Compiler } from './compiler.js';

/** The extensions that a compiler reads, with those that it writes. */
function extensionsFor(name: Format['compiler']): Readonly<Record<string, string>> {
  const own = extensionsWhere(({ compiler }) => compiler === name);
  return Object.fromEntries(own.map((extension) => [extension, formats[extension]!.compiledTo ?? extension]));
}

/** Sass by its reference compiler. */
const sass: Compiler = {
  extensions: extensionsFor('sass'),
  toolVersions: ['sass'],
  runsInProcess: false,
  isPartial: (path) => /(^|\/)_[^/]*\.(scss|sass)$/i.test(path),
  load: async () => (await import('./sass.js')).compileSass,
  warmUp: async (context) => (await import('./sass.js')).prepareSass(context),
};

/** TypeScript, JSX, and JavaScript that is newer than the target browsers, by the reference compiler. */
const typescript: Compiler = {
  extensions: extensionsFor('typescript'),
  toolVersions: ['typescript', 'acorn'],
  runsInProcess: true,
  isPartial: (path) => /\.d\.[cm]?ts$/i.test(path),
  load: async () => (await import('./typescript.js')).compileScript,
  warmUp: async () => (await import('./typescript.js')).prepareScripts(),
};

/** A compiler that the project installs itself; its version is in the trace. */
function optional(name: Format['compiler'], load: Compiler['load']): Compiler {
  return {
    extensions: extensionsFor(name),
    toolVersions: [],
    runsInProcess: true,
    isPartial: () => false,
    load,
    warmUp: () => Promise.resolve(),
  };
}

const less = optional('less', async () => (await import('./less.js')).compileLess);
const markdown = optional('markdown', async () => (await import('./templates.js')).compileMarkdown);

/** Languages that become scripts, which are then compiled for the target browsers. */
const toScripts = (name: Format['compiler'], load: Compiler['load']): Compiler => ({
  ...optional(name, load),
  toolVersions: typescript.toolVersions,
});
const coffee = toScripts('coffee', async () => (await import('./coffee.js')).compileCoffee);
const pug = toScripts('pug', async () => (await import('./templates.js')).compilePug);
const handlebars = toScripts('handlebars', async () => (await import('./templates.js')).compileHandlebars);

/** All compilers; the first one that handles an extension is used. */
export const compilers: readonly Compiler[] = [sass, less, typescript, coffee, pug, handlebars, markdown];
