import { error, warning } from './entry.js';

/** Diagnostics of references, and of names by content. */
export const references = {
  'import-missing': error<{ url: string; path: string; near: string | undefined }>(
    (p) => `\`${p.url}\` refers to ${p.path}, which does not exist and is not written by any pipeline.`,
    (p) =>
      p.near === undefined ? 'Add the module to a pipeline, or correct the path.' : `Did you mean \`${p.near}\`?`,
  ),
  'import-name': error<{ name: string; url: string; suggestion: string }>(
    (p) => `\`${p.url}\` has no export \`${p.name}\`.`,
    (p) => `${p.suggestion} If it is a type, write \`import type\` or \`export type\`.`,
  ),
  'script-invalid': error<{ output: string; reason: string }>(
    (p) => `${p.output} is not valid JavaScript: ${p.reason.replace(/^./, (letter) => letter.toLowerCase())}.`,
    () => 'Fix the source. If that is valid, one of the steps is wrong: please report it.',
  ),
  'script-newer': warning<{ what: string; year: number }>(
    (p) => `${p.what} needs ECMAScript ${String(p.year)}, which some target browsers do not know.`,
    () => 'Add `compile` to the pipeline, or remove these browsers from `browsers`.',
  ),
  'script-is-module': error<{ url: string }>(
    (p) => `\`${p.url}\` is a module, but it is loaded as a classic script.`,
    () => 'Add `type="module"` to the element.',
  ),
  'module-is-script': error<{ url: string; reason: string }>(
    (p) =>
      `\`${p.url}\` is loaded as a module, but it is not valid as one: ${p.reason.replace(/^./, (letter) => letter.toLowerCase())}.`,
    () => 'Load it without `type="module"`, or fix the syntax: modules are strict.',
  ),
  'import-bare': error<{ name: string }>(
    (p) => `Browsers cannot resolve the bare specifier \`${p.name}\`.`,
    () =>
      'Import the module by path or URL, or define the name in an import map of the page. `paths` in tsconfig.json only affects type checking.',
  ),
  'import-builtin': error<{ name: string }>(
    (p) => `\`${p.name}\` is a Node.js module, which browsers do not provide.`,
    () => 'Use a browser API instead, or exclude the script from the site.',
  ),
  'import-type': error<{ url: string; type: string }>(
    (p) => `Browsers load \`${p.url}\` as a script, because the import has no \`type\` attribute.`,
    (p) => `Add \`with { type: "${p.type}" }\` to the import, or load the file with \`fetch\`.`,
  ),
  'script-require': error<{ name: string }>(
    (p) => `\`require("${p.name}")\` fails in browsers, which do not define \`require\`.`,
    () => 'Use `import` and `export` instead.',
  ),
  'reference-missing': warning<{ url: string; path: string; near: string | undefined }>(
    (p) => `\`${p.url}\` refers to ${p.path}, which does not exist and is not written by any pipeline.`,
    (p) => (p.near === undefined ? 'Add the file to a pipeline, or correct the URL.' : `Did you mean \`${p.near}\`?`),
  ),
  'white-space-shown': warning(
    () => 'This declaration shows white space as it is written, but `minify` collapses white space in pages.',
    () => 'Set `whiteSpace` of `minify` to `keep`, or to `collapse` if no page has such text.',
  ),
  'reference-not-renamed': error<{ url: string; target: string; published: string }>(
    (p) => `\`${p.url}\` would still refer to ${p.target}, which is published as ${p.published}.`,
    () => 'Write the URL without escapes, or list the file in `plainNames`.',
  ),
  'inline-refused': warning<{ url: string; target: string; published: string }>(
    (p) => `${p.target} cannot be written in place of \`${p.url}\`; it is loaded from ${p.published}.`,
    () =>
      'Files that refer to others, modules with imports, code with end tags, and URLs with a query or fragment are not inlined.',
  ),
  'output-read-renamed': error<{ output: string }>(
    (p) => `Another pipeline reads ${p.output}, which keeps its name, but references in it change to hashed names.`,
    () => 'Let the other pipeline read its source, or set `names: plain` for the pipelines that it refers to.',
  ),
  'references-unknown': warning<{ path: string }>(
    (p) => `References in ${p.path} are unknown, so those to renamed files are not changed.`,
    () =>
      'It has to be UTF-8 of less than 8 MB, without syntax errors or extreme nesting. Otherwise, list the files that it refers to in `plainNames`.',
  ),
  'text-not-renamed': warning<{ url: string; target: string; published: string }>(
    (p) => `The text \`${p.url}\` names ${p.target}, which is published as ${p.published}.`,
    () =>
      'Write `new URL("…", import.meta.url)` in a module, list the file in `plainNames`, or look it up in names.json.',
  ),
};
