/** The severity of a diagnostic: only errors prevent a pipeline from publishing. */
export type Severity = 'error' | 'warning' | 'note';

/** One entry: the sentences get the same parameters. */
export interface Entry<P> {
  readonly severity: Severity;
  /** The problem. */
  readonly message: (parameters: P) => string;
  /** The solution; empty if the message is sufficient. */
  readonly hint: (parameters: P) => string;
}

const error = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'error',
  message,
  hint,
});
const warning = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'warning',
  message,
  hint,
});

const note = <P = Record<never, never>>(message: Entry<P>['message'], hint: Entry<P>['hint']): Entry<P> => ({
  severity: 'note',
  message,
  hint,
});

/** The reason of `file-unreadable` for a file that does not exist. */
const missing = 'it does not exist';

/**
 * Every diagnostic of the product, in the order of a build: project file, plan, files, steps, publishing.
 * A code never changes its meaning.
 */
export const catalogue = {
  // The command line
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

  // Finding and reading the project file
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

  // The shape of the settings
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
    () => 'Remove `extends` from one of them.',
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

  // The plan
  'glob-empty': warning<{ glob: string; pipeline: string; found: string; suggestion: string }>(
    (p) => `\`${p.glob}\` in the pipeline \`${p.pipeline}\` matches ${p.found}.`,
    (p) => p.suggestion,
  ),
  'constant-variable': warning<{ name: string; value: string }>(
    (p) => `The constant \`${p.name}\` is the literal text \`${p.value}\`; environment variables are not expanded.`,
    () => 'Write the value itself.',
  ),
  'constant-unset': error<{ name: string; variable: string }>(
    (p) => `The constant \`${p.name}\` has no value: the environment variable \`${p.variable}\` is not set.`,
    (p) => `Set it, or add a \`default\`: \`{ env: ${p.variable}, default: … }\`.`,
  ),
  'constant-type': error<{ name: string; variable: string; type: string }>(
    (p) => `The value of the environment variable \`${p.variable}\`, for the constant \`${p.name}\`, is no ${p.type}.`,
    (p) => (p.type === 'boolean' ? 'Set it to `true` or `false`.' : 'Set it to a number such as `4600`.'),
  ),
  'constant-secret': error<{ name: string }>(
    (p) => `The secret constant \`${p.name}\` is used in a script, which everyone can read.`,
    () => 'Ask a server of yours instead, or remove `secret` if everyone may know the value.',
  ),
  'secret-written': error<{ name: string; path: string }>(
    (p) => `${p.path} contains the value of the secret constant \`${p.name}\`.`,
    () => 'Remove it from the source, or from what the command or function writes.',
  ),
  'profile-conflict': error<{ pipeline: string; path: string; profiles: string }>(
    (p) => `\`${p.pipeline}\` writes ${p.path} in several of the profiles to build: ${p.profiles}.`,
    () => 'Add `{profile}` to its `to`, as in `to: site/{profile}`, or build one profile at a time.',
  ),
  'match-empty': warning<{ glob: string; step: string; assets: string }>(
    (p) => `\`${p.glob}\` matches none of the assets of \`${p.step}\`, so the step does nothing.`,
    (p) => `Its assets: ${p.assets}. A \`match\` without \`/\` applies to file names.`,
  ),
  'names-empty': warning<{ glob: string }>(
    (p) => `\`${p.glob}\` of \`plainNames\` matches no output.`,
    () => 'Globs are relative to the project, such as `site/downloads/**`.',
  ),
  'limit-empty': warning<{ of: string }>(
    (p) => `\`${p.of}\` of \`limits\` stands for no output.`,
    () => 'Write an extension without a dot, such as `js`, or a glob relative to the project, such as `site/js/**`.',
  ),
  'limit-exceeded': error<{ of: string; size: string; limit: string; more: string; largest: string }>(
    (p) => `The outputs of \`${p.of}\` have ${p.size} with gzip, ${p.more} more than their limit of ${p.limit}.`,
    (p) => `The largest are ${p.largest}. \`loyal-anvil report\` shows what they are made of.`,
  ),
  'output-conflict': error<{ output: string; by: string }>(
    (p) => `${p.output} would be written more than once: ${p.by}.`,
    () => 'Change `to`, `base` or the name of one of them.',
  ),
  'output-over-source': error<{ output: string; pipeline: string }>(
    (p) => `The pipeline \`${p.pipeline}\` would overwrite the source ${p.output}.`,
    () => 'Change `to` of the pipeline.',
  ),
  'pipeline-cycle': error<{ names: readonly string[]; reasons: readonly string[] }>(
    (p) => `Circular pipelines: ${p.names.join(' → ')}.`,
    (p) => `${p.reasons.join('; ')}. Remove one of these dependencies.`,
  ),

  'base-outside': error<{ source: string; base: string; pipeline: string }>(
    (p) => `${p.source} is not in the base folder ${p.base} of the pipeline \`${p.pipeline}\`.`,
    () => 'Use a folder that contains all sources, or remove `base`.',
  ),

  // Files
  'file-unreadable': error<{ reason: string }>(
    (p) => (p.reason === missing ? 'File not found.' : `The file cannot be read: ${p.reason}.`),
    (p) =>
      p.reason === missing ? 'It was moved or deleted.' : 'Check its permissions, and that it is a regular file.',
  ),
  'folder-unreadable': error<{ reason: string }>(
    (p) => `The folder cannot be read: ${p.reason}.`,
    () => 'Nothing was built or removed. Fix its permissions, or exclude it with `!`.',
  ),
  'not-utf8': error<{ offset: number }>(
    (p) => `The file is not valid UTF-8: unexpected byte at offset ${p.offset}.`,
    () => 'Save it as UTF-8, or exclude it from this step with `match`.',
  ),

  // Steps
  'compiler-ended': error<{ language: string; reason: string }>(
    (p) => `The ${p.language} compiler is not running: ${p.reason}.`,
    () => 'Build again. If the error persists, check the available memory and reinstall the packages with `npm ci`.',
  ),
  'compiler-slow': error<{ language: string; seconds: number }>(
    (p) =>
      `${p.language} did not finish this file within ${p.seconds === 1 ? 'a second' : `${String(p.seconds)} seconds`}.`,
    () => 'Look for an endless loop. If the file is just large, raise `timeLimit` of `compile`.',
  ),
  sass: error<{ message: string; near?: string }>(
    (p) => p.message,
    (p) => {
      if (p.near !== undefined) return `Did you mean \`${p.near}\`?`;
      if (/^Undefined /.test(p.message)) return 'Check the spelling, and that this file loads the one that defines it.';
      if (/^Can't find stylesheet/.test(p.message))
        return 'Sass searches the folder of this file, then `loadPaths` of `compile`. For npm packages, write `pkg:name`.';
      return '';
    },
  ),
  'sass-warning': warning<{ message: string }>(
    (p) => p.message,
    () => '',
  ),
  'sass-deprecated': warning<{ message: string; kind: string; instead?: string }>(
    (p) => `${p.message} (${p.kind})`,
    (p) =>
      p.instead === undefined
        ? 'A future version of Sass will reject it.'
        : `Use ${p.instead}; a future version of Sass will reject this.`,
  ),
  compiler: error<{ language: string; message: string }>(
    (p) => `${p.language}: ${p.message}`,
    () => '',
  ),
  typescript: error<{ message: string; number: number }>(
    (p) => `${p.message} (TS${p.number})`,
    () => '',
  ),
  tsconfig: error<{ message: string; number: number }>(
    (p) => `${p.message} (TS${p.number})`,
    () => 'Only the options that affect single files are read.',
  ),
  'jsx-undecided': error<{ found: string }>(
    (p) => `This file contains JSX, but ${p.found} how to compile it.`,
    () =>
      'Set "jsx" in the "compilerOptions" of tsconfig.json to "react-jsx" (with "jsxImportSource") or to "react" (with "jsxFactory").',
  ),
  'syntax-unsupported': warning<{ what: string; browser: string }>(
    (p) => `${p.what} does not work in ${p.browser}, one of the target browsers.`,
    () => 'It cannot be compiled to older syntax. Rewrite it, or remove this browser from `browsers`.',
  ),
  'syntax-inexact': warning<{ what: 'arguments' | 'accessor' | 'builtin' | 'super'; name: string }>(
    (p) =>
      ({
        arguments:
          'For browsers without generators and arrow functions, this becomes part of a function with other `arguments`.',
        accessor: `For browsers without computed names, the accessor \`${p.name}\` is not listed among the properties of the object.`,
        super: 'For browsers without classes, `super` in a method of an object literal cannot be compiled.',
        builtin: `For browsers without classes, objects of this class are no instances of it: \`${p.name}\` creates its own.`,
      })[p.what],
    (p) =>
      ({
        arguments: 'Use a rest parameter.',
        accessor: 'Write the object without computed names, or use `Object.defineProperty`.',
        super: 'Call the method of the prototype by its name.',
        builtin: 'Use functions instead, or newer target browsers.',
      })[p.what],
  ),
  'attribute-unsupported': warning<{ browser: string }>(
    (p) => `An import attribute does not work in ${p.browser}, one of the target browsers.`,
    () => 'Link the script, load the file with `fetch`, or remove this browser from `browsers`.',
  ),
  'script-syntax': error<{ message: string }>(
    (p) => `The script cannot be parsed: ${p.message}.`,
    () => 'Fix the syntax. For TypeScript, add `compile` before this step.',
  ),
  'script-kind': error<{ kind: string; advice: string }>(
    (p) => `This is not JavaScript; it looks like ${p.kind}.`,
    (p) => p.advice,
  ),
  'property-taken': error<{ property: string; shortName: string }>(
    (p) => `The property \`${p.property}\` would be renamed to \`${p.shortName}\`, which this script already uses.`,
    (p) => `Remove \`${p.property}\` from \`renameProperties\`, or rename \`${p.shortName}\`.`,
  ),
  'style-syntax': error<{ message: string }>(
    (p) => `The style sheet cannot be parsed: ${p.message}.`,
    () => 'Fix the syntax. For another style sheet language, add `compile` before this step.',
  ),
  'style-skipped': warning<{ message: string }>(
    (p) => `Browsers ignore this part of the style sheet: ${p.message}.`,
    () => 'It is kept as is. Fix or remove it.',
  ),
  'too-deep': error<{ isLinked: boolean }>(
    (p) => `${p.isLinked ? 'The file, or one that it imports,' : 'The file'} is too deeply nested.`,
    () => 'Reduce the nesting, or exclude the file from this step with `match`.',
  ),
  'step-passed': warning<{ step: string; kind: string }>(
    (p) => `\`${p.step}\` does not handle ${p.kind}; they pass through unchanged.`,
    () => 'Exclude such files with `match`, or copy them in a pipeline without steps.',
  ),
  'join-kinds': error<{ first: string; second: string }>(
    (p) => `\`join\` cannot combine ${p.first} and ${p.second}.`,
    () => 'Use a separate pipeline for each kind, or select files with `match`.',
  ),
  'join-unknown': error<{ file: string }>(
    (p) => `\`join\` handles scripts and style sheets; ${p.file} is neither.`,
    () => 'Select the files to join with `match`, or compile them first.',
  ),
  'join-module': error(
    () => 'This script is an ES module, which cannot be joined with other scripts.',
    () => 'Remove `join` for modules: browsers load them with <script type="module">.',
  ),
  'join-twice': error<{ name: string; first: string }>(
    (p) =>
      `\`${p.name}\` is declared at the top level of both this script and ${p.first}, which is a syntax error in one file.`,
    () => 'Rename one of them, or wrap one of the scripts in a block or function.',
  ),
  'join-strict': warning<{ file: string }>(
    (p) => `"use strict" in ${p.file} would apply to the other joined scripts, so it is omitted.`,
    () => 'Make all scripts that share top-level names strict, or none of them, or join them separately.',
  ),
  'join-order': warning<{ name: string; file: string }>(
    (p) => `\`${p.name}\` is used before its declaration in ${p.file}, which throws an error in one file.`,
    (p) => `Put ${p.file} first, or rename its \`${p.name}\`.`,
  ),

  'link-missing': error<{ specifier: string; near: string | undefined }>(
    (p) => `\`${p.specifier}\` cannot be resolved.`,
    (p) => (p.near === undefined ? 'Check the path.' : `Did you mean \`${p.near}\`?`),
  ),
  'link-package': error<{ specifier: string; name: string; isDeclared: boolean; near: string | undefined }>(
    (p) =>
      `\`${p.specifier}\` cannot be resolved: the package \`${p.name}\` is ${p.isDeclared ? 'in package.json, but ' : ''}not installed.`,
    (p) => {
      if (p.isDeclared) return 'Run `npm install`.';
      if (p.near !== undefined) return `Did you mean \`${p.near}\`? Otherwise, run \`npm install ${p.name}\`.`;
      return `Run \`npm install ${p.name}\`, or correct the name.`;
    },
  ),
  'link-subpath': error<{ specifier: string; name: string; subpaths: readonly string[] }>(
    (p) => `\`${p.specifier}\` cannot be resolved: the package does not export this path.`,
    (p) =>
      `\`${p.name}\` exports ${p.subpaths
        .slice(0, 8)
        .map((one) => `\`${p.name}${one.slice(1)}\``)
        .join(', ')}${p.subpaths.length > 8 ? ` and ${String(p.subpaths.length - 8)} more` : ''}.`,
  ),
  'link-url': warning<{ specifier: string }>(
    (p) => `The file of \`new URL('${p.specifier}', import.meta.url)\` does not exist.`,
    () => 'Correct the path; it is relative to this script.',
  ),
  'link-worker': warning<{ specifier: string }>(
    (p) => `The worker \`${p.specifier}\` is linked as an ES module, but created as a classic script.`,
    () => "Create it with `{ type: 'module' }`.",
  ),
  'link-script': error<{ what: string }>(
    (p) => `A linked classic script cannot contain ${p.what}.`,
    () => 'Link it as a module: remove `as: script`, and load it with <script type="module">.',
  ),
  'link-node-name': warning<{ name: string }>(
    (p) => `\`${p.name}\` exists in Node.js, but not in browsers.`,
    (p) => `Check \`typeof ${p.name}\` first, use a package for browsers, or set it in \`constants\`.`,
  ),
  'link-require-name': warning(
    () => 'This `require` has no constant name, so it is not linked, and throws an error when it is called.',
    () => 'Require modules by constant names, or ignore this if the code is never reached in browsers.',
  ),
  'link-builtin': error<{ specifier: string }>(
    (p) => `\`${p.specifier}\` is a module of Node.js, which browsers do not have.`,
    () => 'Import a package that works in browsers instead, or list it in `external`.',
  ),
  'link-require': warning<{ specifier: string }>(
    (p) => `\`require('${p.specifier}')\` cannot be resolved, and throws an error when it is called.`,
    () => 'Install the package, or ignore this if the call is optional.',
  ),
  'link-import-call': warning<{ specifier: string; reason: string }>(
    (p) => `\`import('${p.specifier}')\` fails when it is called: ${p.reason}.`,
    () => 'Correct the path or the file, or handle the error.',
  ),
  'link-import-computed': warning<{ start: string }>(
    (p) =>
      `\`import()\` of a path that begins with \`${p.start}\` is not linked, and fails if no such file is beside the linked one.`,
    () => "List the modules instead, for example as `{ tides: () => import('./tides.js') }`.",
  ),
  'link-require-module': error<{ specifier: string }>(
    (p) => `\`require('${p.specifier}')\` refers to an ES module, which only \`import\` can load.`,
    () => 'Use `import`, or `import()` in a CommonJS module.',
  ),
  'link-kind': error<{ file: string }>(
    (p) => `${p.file} cannot be imported.`,
    () => "Refer to files other than scripts, style sheets, JSON and texts by `new URL('…', import.meta.url)`.",
  ),
  'link-sloppy': error(
    () => 'This script has syntax that modules do not allow, such as `with` or octal numbers.',
    () => 'Rewrite it, or load it as a separate script with `join`.',
  ),
  'link-json': error<{ reason: string }>(
    (p) => `This file is not valid JSON: ${p.reason}.`,
    () => 'Correct it; JSON has no comments and no trailing commas.',
  ),
  'link-export': error<{ name: string; file: string; near: string | undefined }>(
    (p) => `${p.file} has no export \`${p.name}\`.`,
    (p) => (p.near === undefined ? 'Check the name, or export it there.' : `Did you mean \`${p.near}\`?`),
  ),
  'link-ambiguous': error<{ name: string; file: string }>(
    (p) => `\`${p.name}\` is exported by several modules that ${p.file} exports with \`export *\`.`,
    (p) => `Export it explicitly there: \`export { ${p.name} } from …\`.`,
  ),
  'link-member': warning<{ name: string; file: string; near: string | undefined }>(
    (p) => `${p.file} has no export \`${p.name}\`, so it is undefined here.`,
    (p) => (p.near === undefined ? 'Check the name, or export it there.' : `Did you mean \`${p.near}\`?`),
  ),
  'link-cycle': warning<{ name: string; file: string }>(
    (p) => `\`${p.name}\` is read before it has a value: ${p.file} imports this module too, and is evaluated after it.`,
    () => 'Read it later, in a function, or move what both modules need into a third one.',
  ),
  'link-copies': warning<{ name: string; copies: readonly string[] }>(
    (p) => `The bundle contains ${String(p.copies.length)} copies of \`${p.name}\`: ${p.copies.join('; ')}.`,
    () => 'Align the versions that your packages depend on, for example with `npm dedupe`.',
  ),
  'link-assignment': warning<{ name: string }>(
    (p) => `\`${p.name}\` is imported, and assigning to it throws an error.`,
    () => 'Export a function that assigns it in the module that declares it.',
  ),
  'link-sheet-late': warning<{ name: string }>(
    (p) => `Browsers skip this \`@${p.name}\`, because other rules precede it.`,
    () => 'Move it to the beginning of the style sheet.',
  ),
  'link-sheet-cycle': warning<{ url: string }>(
    (p) => `\`${p.url}\` imports this style sheet in turn, so that browsers skip this \`@import\`.`,
    () => 'Remove one of the imports, or move what both sheets need into a third one.',
  ),
  'link-sheet-kind': error<{ file: string }>(
    (p) => `${p.file} is not a style sheet.`,
    () => 'Import a style sheet; refer to other files by `url()`.',
  ),

  // References
  'import-missing': error<{ url: string; path: string; near: string | undefined }>(
    (p) => `\`${p.url}\` refers to ${p.path}, which does not exist and is not written by any pipeline.`,
    (p) =>
      p.near === undefined ? 'Add the module to a pipeline, or correct the path.' : `Did you mean \`${p.near}\`?`,
  ),
  'import-name': error<{ name: string; url: string; suggestion: string }>(
    (p) => `\`${p.url}\` has no export \`${p.name}\`.`,
    (p) => `${p.suggestion} If it is a type, write \`import type\` or \`export type\`.`,
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
  'reference-not-renamed': warning<{ url: string; target: string; published: string }>(
    (p) => `\`${p.url}\` still refers to ${p.target}, which is published as ${p.published}.`,
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
  'step-without-sources': error<{ step: string }>(
    (p) => `The step \`${p.step}\` needs sources.`,
    () => 'Add `from` to the pipeline; without it, only commands run.',
  ),
  'command-missing': error<{ program: string; command: string }>(
    (p) => `\`${p.command}\` cannot be run: there is no program \`${p.program}\`.`,
    (p) =>
      `Install the package that contains \`${p.program}\`, or write the path of the program, such as \`./tools/${p.program}\`.`,
  ),
  'command-failed': error<{ command: string; how: string; lines: string }>(
    (p) => `\`${p.command}\` ${p.how}.${p.lines === '' ? '' : `\n${p.lines}`}`,
    () => 'Fix what it reports; it runs again in the next build.',
  ),
  'command-no-output': error<{ command: string }>(
    (p) => `\`${p.command}\` ended without writing the file \`{out}\`.`,
    () => 'Let it write the file that `{out}` stands for, or omit `{out}` if it writes to standard output.',
  ),
  template: error<{ language: string; message: string }>(
    (p) => `${p.language}: ${p.message}`,
    () => '',
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
  'check-nothing': error(
    () => 'The step `check` names no checker.',
    () => 'Write `check: types`, `check: eslint` or `check: stylelint`, or set `run` to a command.',
  ),
  'check-project': error<{ path: string }>(
    (p) => `The types cannot be checked: there is no ${p.path}.`,
    () => 'Add a tsconfig.json to the project, or set `project` of `check` to the path of one.',
  ),
  'check-failed': error<{ checker: string; message: string }>(
    (p) => `\`check: ${p.checker}\` has failed: ${p.message}`,
    () => 'Fix its configuration or its installation; nothing is known of the sources until it runs.',
  ),
  'check-output': error<{ command: string; format: string; message: string }>(
    (p) => `What \`${p.command}\` writes is not \`${p.format}\`: ${p.message}.`,
    () => 'Set `findings` to the form in which it writes what it finds.',
  ),
  'cut-mark': error<{ words: string }>(
    (p) => `\`anvil: ${p.words}\` is neither \`anvil: only NAME\` nor \`anvil: end\`.`,
    () => 'Write `anvil: only` with the names of profiles, and `anvil: end` after the part.',
  ),
  'cut-profile': error<{ name: string; near: string | undefined }>(
    (p) => `There is no profile \`${p.name}\`.`,
    (p) => (p.near === undefined ? 'Add it to `profiles` of the project file.' : `Did you mean \`${p.near}\`?`),
  ),
  'cut-open': error(
    () => 'The part that begins here has no end.',
    () => 'Write the comment `anvil: end` on a line after it.',
  ),
  'cut-end': error(
    () => 'No part begins before this end.',
    () => 'Remove the comment, or write `anvil: only NAME` on a line before the part.',
  ),
  'cut-imported': warning<{ words: string }>(
    (p) => `\`anvil: ${p.words}\` has no effect here, because this file is not a source of its own.`,
    () => 'Write the comments around what imports this file, in the file that `from` names, or split it.',
  ),
  'licence-missing': warning<{ name: string }>(
    (p) => `The package \`${p.name}\` names no licence, and has no licence file.`,
    () => 'Ask its authors under which terms you may publish it.',
  ),
  'picture-damaged': warning<{ format: string; reason: string }>(
    (p) => `This is no valid ${p.format} file: ${p.reason}. It stays as it is.`,
    () => 'Open it in a program for pictures, and save it again.',
  ),
  'variants-nothing': error(
    () => 'The step `variants` names neither widths nor formats.',
    () => 'Write, for example, `variants: { widths: [480, 960], formats: [avif, webp] }`.',
  ),
  'variants-changed': error<{ step: string }>(
    (p) =>
      `\`${p.step}\` changes pictures after \`variants\`, so that pages would offer them with widths that may be wrong.`,
    (p) => `Put \`variants\` after \`${p.step}\`.`,
  ),
  'class-super': error(
    () => 'This call of `super` cannot be compiled to older syntax, because it is part of something else.',
    () =>
      'Write `super(…);` as a statement of its own in the constructor, or choose browsers that know classes with fields.',
  ),
  'class-field-scope': error<{ name: string }>(
    (p) =>
      `The field uses \`${p.name}\`, which is something else in the constructor that has to initialize it for older browsers.`,
    (p) => `Give \`${p.name}\` another name in the constructor.`,
  ),
  'importmap-missing': error<{ name: string }>(
    (p) => `\`${p.name}\` leads to no file of an installed package.`,
    (p) =>
      `Run \`npm install ${p.name
        .split('/')
        .slice(0, p.name.startsWith('@') ? 2 : 1)
        .join('/')}\`, or correct the name.`,
  ),
  'importmap-commonjs': error<{ name: string }>(
    (p) => `The package \`${p.name}\` is CommonJS, which browsers cannot load.`,
    () => 'Use `link`, which converts it, or a package with ES modules.',
  ),
  'importmap-there': warning(
    () => 'This page has an import map already; it is not changed.',
    () => 'Remove it, so that the step can write one, or leave the page out with `match`.',
  ),
  'apply-missing': error<{ module: string }>(
    (p) => `There is no module ${p.module}.`,
    () => 'Write the path of the module relative to the project, such as `tools/credits.mjs`.',
  ),
  'apply-export': error<{ module: string }>(
    (p) => `${p.module} has no function as its default export.`,
    () => 'Export one: `export default (asset, context) => …`.',
  ),
  'apply-options': error<{ module: string; problems: string }>(
    (p) => `The options for ${p.module} are not those of its schema: ${p.problems}.`,
    () => 'Change `options` of the step in the project file, or the `schema` that the module exports.',
  ),
  'apply-failed': error<{ module: string; message: string }>(
    (p) => `The function of ${p.module} has failed: ${p.message}`,
    () => 'Nothing of the pipeline is published until the function succeeds.',
  ),
  'apply-result': error<{ module: string; reason: string }>(
    (p) => `The result of the function of ${p.module} cannot be used: ${p.reason}.`,
    () =>
      'Return a text, bytes, an object with `text` or `bytes`, a list of objects with `path`, `null` or nothing. Paths that no asset has belong to `writes` of the step.',
  ),
  'apply-error': error<{ message: string }>(
    (p) => p.message,
    () => 'A function of the project reported this error.',
  ),
  'apply-warning': warning<{ message: string }>(
    (p) => p.message,
    () => 'A function of the project reported this warning.',
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

  // Publishing
  'output-foreign': error<{ output: string }>(
    (p) => `${p.output} already exists and was not written by Loyal Anvil.`,
    () => 'Move or delete it, choose another `to`, or replace it with --force.',
  ),
  'output-edited': warning<{ output: string; did: string }>(
    (p) => `${p.output} was edited after it was written, so it was ${p.did}.`,
    () => 'Apply the edit to the source, then run the command with --force.',
  ),
  'output-unwritable': error<{ output: string; reason: string }>(
    (p) => `${p.output} cannot be written: ${p.reason}.`,
    () => 'Nothing in this pipeline was published; previous outputs kept. Free disk space or fix the permissions.',
  ),
  'record-unreadable': error<{ reason: string }>(
    (p) => `The record of written outputs cannot be read: ${p.reason}.`,
    () =>
      'Nothing was built: without the record, outputs cannot be distinguished from your own files. Fix its permissions; if it is not a regular file, delete it.',
  ),
  'record-untrusted': warning<{ ignored: string }>(
    (p) =>
      `The record of written outputs comes from another folder and lists files that no pipeline writes: ${p.ignored}.`,
    () => 'They are ignored. If they are old outputs, delete them yourself.',
  ),
  'project-shared': warning<{ id: number; profile: string; isSession: boolean }>(
    (p) =>
      `${p.isSession ? 'A session' : 'A build'} for \`${p.profile}\` is already running in this project (process ${String(p.id)}) and writes the same outputs.`,
    (p) =>
      p.isSession
        ? 'The session overwrites these outputs at its next rebuild. Stop it before you build a release.'
        : 'The last one to write wins. Build again when the other build has finished.',
  ),
  'outputs-restored': note<{ outputs: string }>(
    (p) => `Outputs that another build had replaced were written again: ${p.outputs}.`,
    () => 'To keep the outputs of the other build, stop this session first.',
  ),
  'record-unwritable': error<{ path: string; reason: string }>(
    (p) => `The record of written outputs cannot be saved to ${p.path}: ${p.reason}.`,
    () =>
      'Nothing was written: the next build could not distinguish outputs from your own files. Free disk space or fix the permissions.',
  ),
  'store-unusable': warning<{ reason: string }>(
    (p) => `Results cannot be cached: ${p.reason}.`,
    () =>
      'This build is complete, but the next one has to run every job again. Free disk space or fix the permissions.',
  ),

  // Explaining
  'why-unknown': error<{ path: string; profile: string; near: string | undefined }>(
    (p) => `${p.path} was not part of the last ${p.profile} build.`,
    (p) =>
      p.near === undefined
        ? 'Build first, or list all sources and outputs with `loyal-anvil list --verbose`.'
        : `Did you mean \`${p.near}\`? If the file is new, build first.`,
  ),
  'why-unbuilt': error<{ profile: string }>(
    (p) => `There is no previous ${p.profile} build.`,
    () => 'Run `loyal-anvil build` first, or specify the profile that was built with --profile.',
  ),

  // Watching
  'watch-limit': warning<{ seconds: number }>(
    (p) =>
      `The system limit for watched folders is reached; files are polled every ${p.seconds === 1 ? 'second' : `${String(p.seconds)} seconds`} instead.`,
    () => 'To detect changes immediately, raise the limit of your operating system.',
  ),

  'project-gone': error<{ folder: string }>(
    (p) => `The project folder ${p.folder} was moved, deleted or replaced.`,
    () => 'The session has ended; nothing was written. Start it again in the current project folder.',
  ),

  // Serving
  'serve-missing': error(
    () => 'The project file has no `serve` section.',
    () => 'Add `serve: { folder: site }`, with the folder that the pipelines write to.',
  ),
  'serve-address': error<{ host: string; port: number; reason: string }>(
    (p) => `The server cannot listen on ${p.host}, port ${String(p.port)}: ${p.reason}.`,
    () => 'Set another address with --host and --port, or under `serve` in the project file.',
  ),
  'serve-later': warning(
    () => 'Changes to host, port, hosts or proxies in `serve` take effect after a restart.',
    () => 'Restart the server to apply them.',
  ),

  // init
  'init-exists': error<{ file: string }>(
    (p) => `${p.file} already exists.`,
    () => 'Nothing was written. Edit the file, or move it and run the command again.',
  ),
  'init-nothing': error<{ folder: string }>(
    (p) => `No style sheets, scripts or pages found in ${p.folder}.`,
    () =>
      'Add sources in folders such as styles, scripts and pages, or write anvil.yaml by hand as shown in the README.',
  ),
  'init-package': error<{ reason: string }>(
    (p) => `package.json was not changed: ${p.reason}.`,
    () => 'Add the scripts by hand, or fix the file and run the command again.',
  ),
};

/** A stable name of one kind of diagnostic. */
export type Code = keyof typeof catalogue;

/** The parameters of a code's sentences. */
export type Parameters<C extends Code> = (typeof catalogue)[C] extends Entry<infer P> ? P : never;
