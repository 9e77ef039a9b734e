import { error } from './entry.js';

/** Diagnostics of the command line and the project file. */
export const projectFile = {
  usage: error<{ message: string; help: string }>(
    (p) => p.message,
    (p) => p.help,
  ),
  interrupted: error(
    () => 'The run was interrupted.',
    () => 'No output is incomplete. Run the command again.',
  ),
  internal: error<{ message: string }>(
    (p) => `Internal error: ${p.message}`,
    () =>
      'This is a bug in Loyal Anvil, not in your files. Please report it with the files that cause it; --verbose shows details.',
  ),
  'project-missing': error<{ folder: string }>(
    (p) => `No anvil.yaml in ${p.folder} or any parent folder.`,
    () => 'Run `loyal-anvil init` to create one, or specify a file with --config.',
  ),
  'project-unreadable': error<{ path: string; reason: string }>(
    (p) => `The project file ${p.path} cannot be read: ${p.reason}.`,
    () => 'Check the path after --config and the permissions of the file.',
  ),
  'project-empty': error(
    () => 'The project file is empty.',
    () => 'Define at least one pipeline. Run `loyal-anvil init` in a folder without a project file to see an example.',
  ),
  'yaml-syntax': error<{ problem: string; hint: string }>(
    (p) => p.problem,
    (p) => p.hint,
  ),
  'yaml-tab': error(
    () => 'YAML does not allow tabs for indentation.',
    () => 'Indent with two spaces per level.',
  ),
  'yaml-duplicate-key': error<{ key: string }>(
    (p) => `Duplicate key \`${p.key}\`.`,
    () => 'Remove one of the two, or merge their values.',
  ),
  'yaml-alias-bomb': error<{ name: string }>(
    (p) => `The alias \`*${p.name}\` expands to too many values.`,
    () => 'Write the values out, or nest fewer aliases.',
  ),
  'yaml-alias-unknown': error<{ name: string }>(
    (p) => `The alias \`*${p.name}\` refers to the undefined anchor \`&${p.name}\`.`,
    () => 'Define the anchor on an earlier value. A glob that begins with `*` has to be quoted.',
  ),
  'yaml-tag': error<{ tag: string }>(
    (p) => `YAML reads \`${p.tag}\` as a tag, not as text.`,
    (p) => `Quote it: "${p.tag}".`,
  ),
  'yaml-glob': error<{ glob: string }>(
    (p) => `YAML reads the \`{\` in \`${p.glob}\` as the start of a map.`,
    (p) => `Quote the glob: "${p.glob}".`,
  ),
  'yaml-documents': error(
    () => 'The project file contains more than one YAML document.',
    () => 'Remove the `---` line and the other document.',
  ),
  'unknown-key': error<{ key: string; where: string; suggestion: string }>(
    (p) => `\`${p.key}\` is not a key of ${p.where}.`,
    (p) => p.suggestion,
  ),
  'missing-key': error<{ key: string; where: string; about: string }>(
    (p) => `${p.where} has no \`${p.key}\`.`,
    (p) => `Add it: ${p.about}`,
  ),
  'wrong-type': error<{ key: string; expected: string; found: string; about: string }>(
    (p) => `\`${p.key}\` takes ${p.expected}, not ${p.found}.`,
    (p) => p.about,
  ),
  'key-form': error<{ key: string; found: string; expected: string; about: string }>(
    (p) => `\`${p.key}\` takes ${p.expected}; \`${p.found}\` is not valid.`,
    (p) => p.about,
  ),
  'unknown-value': error<{ key: string; value: string; suggestion: string }>(
    (p) => `\`${p.value}\` is not a value of \`${p.key}\`.`,
    (p) => p.suggestion,
  ),
  'unknown-step': error<{ name: string; suggestion: string }>(
    (p) => `Unknown step \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'step-form': error<{ found: string }>(
    (p) => `A step is a name, or a map with one key; this is ${p.found}.`,
    () => 'Write `- compile` or `- minify: { only: production }`, one list item per step.',
  ),
  'unknown-profile': error<{ name: string; suggestion: string }>(
    (p) => `Unknown profile \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'profile-cycle': error<{ names: readonly string[] }>(
    (p) => `Circular profiles: ${p.names.join(' → ')}.`,
    () => 'Remove `extend` from one of them.',
  ),
  'unknown-pipeline': error<{ name: string; suggestion: string }>(
    (p) => `Unknown pipeline \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'pipeline-name': error<{ name: string }>(
    (p) => `\`${p.name}\` is not a valid name for a pipeline or profile.`,
    () => 'Use letters, digits, `-`, `_` and `.`; begin with a letter or digit.',
  ),
  'browsers-query': error<{ query: string; reason: string }>(
    (p) => `Invalid browser query \`${p.query}\`: ${p.reason}.`,
    () => 'Write a Browserslist query, such as "> 0.5%, last 2 versions, not dead".',
  ),
  'path-outside': error<{ key: string; path: string }>(
    (p) => `\`${p.key}\` is outside the project: ${p.path}`,
    () => 'Use a path inside the project folder, relative to the project file.',
  ),
  'path-reserved': error<{ key: string; path: string; folder: string }>(
    (p) => `\`${p.key}\` is inside the reserved folder \`${p.folder}\`: ${p.path}`,
    () => '`.git`, `node_modules` and `.anvil-cache` are never written to. Choose another folder.',
  ),
  'path-form': error<{ key: string; path: string; problem: string }>(
    (p) => `Invalid path in \`${p.key}\`: ${p.path} ${p.problem}.`,
    () => 'Write paths relative to the project file, with `/` as separator.',
  ),
  'path-placeholder': error<{ key: string; placeholder: string; path: string }>(
    (p) => `\`${p.placeholder}\` in \`${p.key}: ${p.path}\` stands for nothing.`,
    () => 'Only `{profile}` is replaced, with the name of the profile.',
  ),
  'glob-slow': error<{ glob: string; reason: string }>(
    (p) => `\`${p.glob}\` ${p.reason}, which could make matching extremely slow.`,
    () => 'Use fewer wildcards, or several globs.',
  ),
  'only-negations': error(
    () => '`from` contains only negated globs, so it matches nothing.',
    () => 'Add a glob that matches files before them: `!glob` excludes matches of the preceding globs.',
  ),
};
