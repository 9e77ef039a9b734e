import { posix } from 'node:path';
import { encodeText } from '../files/text.js';
import type { Asset } from '../assets/asset.js';
import { fail } from '../diagnostics/index.js';
import { emptyMap, TextBuilder } from '../languages/source-maps/index.js';
import { loadHandlebars, partsOf } from '../templates/handlebars.js';
import { markdownToHtml } from '../templates/markdown.js';
import { explained, loadPug, pugOptions, textForPug } from '../templates/pug.js';
import { pageTemplate } from '../templates/template.js';
import type { Compile, CompilerOptions } from './compiler.js';
import { compileScript } from './typescript.js';

/** Compiles a Pug template to a module whose default export is a function, or to a classic script that registers it. */
export const compilePug: Compile = async (asset, path, options, context) => {
  const template = pageTemplate(asset, context);
  const pug = await loadPug(template.path, context);
  const code = explained(template, context, () =>
    pug.compileClient(textForPug(template), {
      ...pugOptions(template, [], context),
      name: 'template',
      compileDebug: false,
      inlineRuntimeFunctions: true,
    }),
  );
  const text =
    options.templates === undefined
      ? `${code}\nexport default template;\n`
      : registered(asset.path, options.templates, 'template', `${code}\n`);
  return compileScript(made(asset, path, text), path, options, context);
};

/**
 * Compiles a Handlebars template to a module whose default export is a function, or to a classic script that registers it.
 * Modules import the parts that they name as files beside them; registered templates are the parts of each other.
 */
export const compileHandlebars: Compile = async (asset, path, options, context) => {
  const template = pageTemplate(asset, context);
  const handlebars = await loadHandlebars(template.path, context);
  const parts = [...new Map(partsOf(handlebars, template).map((part) => [part.name, part])).values()];
  const spec = String(handlebars.precompile(template.text.slice(template.start), {}));
  if (options.templates !== undefined) {
    const call = `function (values, options) { return template(values, Object.assign({ partials: ${member(options.templates)} }, options)); }`;
    const code = `var template = Handlebars.template(${spec});\n`;
    const text = registered(asset.path, options.templates, call, code);
    return compileScript(made(asset, path, text), path, options, context);
  }
  const imports = parts.map(({ name, start, end }, at) => {
    const file = `./${name.replace(/^\.\//, '')}${name.endsWith('.hbs') ? '' : '.hbs'}`;
    const target = posix.join(posix.dirname(template.path), file);
    if (!context.exists(target))
      fail(
        'template-missing',
        { name, folders: posix.dirname(template.path), near: undefined },
        template.place(start, end),
      );
    return `import part${String(at)} from ${JSON.stringify(file)};\n`;
  });
  const known = parts.map(({ name }, at) => `${JSON.stringify(name)}: part${String(at)}`).join(', ');
  const text = `import runtime from 'handlebars/runtime.js';
${imports.join('')}const template = runtime.template(${spec});
const partials = { ${known} };
export default (values, options) => template(values, { ...options, partials: { ...partials, ...options?.partials } });
`;
  return compileScript(made(asset, path, text), path, options, context);
};

/** Compiles Markdown to HTML. */
export const compileMarkdown: Compile = async (asset, path, _, context) => {
  const { path: file, copied, start } = pageTemplate(asset, context);
  const { maps } = context.settings;
  const from = new TextBuilder(maps);
  from.copy(copied, start);
  const { text, map } = await markdownToHtml({ text: from.text, map: from.map() ?? emptyMap }, file, context);
  return { ...made(asset, path, text), ...(maps && { map }) };
};

/** A statement that registers a template by its path without the extension. */
function registered(
  path: string,
  templates: NonNullable<CompilerOptions['templates']>,
  value: string,
  code: string,
): string {
  const name = JSON.stringify(path.replace(/\.[^./]+$/, ''));
  const parts = templates.split('.');
  const objects = parts.map((_, at) => member(parts.slice(0, at + 1).join('.')));
  return `(function () {\n${objects.map((one) => `${one} = ${one} || {};\n`).join('')}${code}${member(templates)}[${name}] = ${value};\n})();\n`;
}

/** A global object, by its name with dots. */
const member = (name: string): string => `window.${name}`;

/** Scripts that templates become have no source maps: the compilers do not tell which lines are whose. */
const made = (asset: Asset, path: string, text: string): Asset => ({
  id: asset.id,
  path,
  bytes: encodeText(text),
  origins: asset.origins,
  isPristine: false,
});
