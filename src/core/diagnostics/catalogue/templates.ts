import { error, note, warning } from './entry.js';

/** Diagnostics of templates, and of packages that the project installs. */
export const templates = {
  template: error<{ language: string; message: string }>(
    (p) => `${p.language}: ${p.message}`,
    () => '',
  ),
  'template-code': note(
    () => 'Pug templates are code: each build runs them, with all the rights of this program.',
    () => 'Only build templates that you trust. This is said before a pipeline is built for the first time.',
  ),
  'template-missing': error<{ name: string; folders: string; near: string | undefined }>(
    (p) => `There is no template \`${p.name}\` in ${p.folders}.`,
    (p) =>
      p.near === undefined
        ? 'Add the file, or set `layouts` and `parts` of `render` to the folders that have it.'
        : `Did you mean \`${p.near}\`?`,
  ),
  'template-variable': warning<{ name: string }>(
    (p) => `\`${p.name}\` has no value.`,
    () => 'Correct the name, add it to the data or the front matter, or test it with `if` first.',
  ),
  'layout-cycle': error<{ path: string }>(
    (p) => `The layout ${p.path} is used within itself.`,
    () => 'Remove `layout` from the front matter of one of the layouts.',
  ),
  'render-now': warning(
    () => 'The page contains the time at which it was rendered, and changes only when it is rendered again.',
    () => 'Write the date into the data, or set it by a script in the page.',
  ),
  'render-each': error<{ name: string; near: string | undefined }>(
    (p) => `The data have no list \`${p.name}\`.`,
    (p) =>
      p.near === undefined
        ? 'Write the name of a data file and the keys of a list in it, such as `catalogue.stars`.'
        : `Did you mean \`${p.near}\`?`,
  ),
  'render-path': error<{ path: string; reason: string }>(
    (p) => `\`path\` leads to no page of its own for each entry: ${p.reason}.`,
    () => 'Use a value that is different in each entry, such as `path: stars/{{ entry.id }}.html`.',
  ),
  'front-matter': error(
    () => 'The front matter is not a map.',
    () => 'Write `key: value` lines between the two lines of `---`.',
  ),
  'data-json': error<{ message: string }>(
    (p) => `The JSON is invalid: ${p.message}.`,
    () => 'Correct the file; JSON has neither comments nor trailing commas.',
  ),
  'data-format': error<{ path: string }>(
    (p) => `${p.path} is neither YAML nor JSON.`,
    () => 'Change `data` of `render`, so that it only matches YAML and JSON files.',
  ),
  'data-name': error<{ name: string; path: string; other: string | undefined }>(
    (p) =>
      p.other === undefined
        ? `${p.path} cannot be a variable: \`${p.name}\` means something else in templates.`
        : `${p.other} and ${p.path} are the same variable \`${p.name}\`.`,
    () => 'Rename the file.',
  ),
  'package-missing': error<{ name: string; kind: string; near?: string }>(
    (p) => `The package \`${p.name}\` is needed for ${p.kind}, and is not installed in the project.`,
    (p) =>
      `${p.near === undefined ? 'Run' : `Did you mean \`${p.near}\`? Otherwise, run`} \`npm install --save-dev ${p.name}\`.`,
  ),
  'package-broken': error<{ name: string; message: string }>(
    (p) => `The package \`${p.name}\` cannot be loaded: ${p.message}`,
    () => 'Install it again, in a version that runs on this version of Node.js.',
  ),
};
