/** How much a diagnostic weighs: only errors keep a pipeline from publishing. */
export type Severity = 'error' | 'warning' | 'note';

/** One entry: the sentences get the same parameters. */
export interface Entry<P> {
  readonly severity: Severity;
  /** What is wrong. */
  readonly message: (parameters: P) => string;
  /** What to do about it. */
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
    () => 'Nothing half-written was left behind. Run the command again.',
  ),
  internal: error<{ message: string }>(
    (p) => `Something in Loyal Anvil itself went wrong: ${p.message}`,
    () =>
      'This is a defect of the tool, not of your files. Please report it, with the files that show it; --verbose adds details.',
  ),

  // Finding and reading the project file
  'project-missing': error<{ folder: string }>(
    (p) => `There is no anvil.yaml in ${p.folder} or in any folder above it.`,
    () => 'Run `loyal-anvil init` to write one, or name a file with --config.',
  ),
  'project-unreadable': error<{ path: string; reason: string }>(
    (p) => `The project file ${p.path} cannot be read: ${p.reason}.`,
    () => 'Check the name after --config and the rights of the file.',
  ),
  'project-empty': error(
    () => 'The project file is empty.',
    () => 'It needs at least one pipeline. Run `loyal-anvil init` in a folder without one to see an example.',
  ),
  'yaml-syntax': error<{ problem: string; hint: string }>(
    (p) => p.problem,
    (p) => p.hint,
  ),
  'yaml-tab': error(
    () => 'A tab is used for indentation, which YAML does not allow.',
    () => 'Use spaces, two a level.',
  ),
  'yaml-duplicate-key': error<{ key: string }>(
    (p) => `\`${p.key}\` is written twice in one map.`,
    () => 'Keep one of the two, or join what they hold.',
  ),
  'yaml-alias-bomb': error<{ name: string }>(
    (p) => `The alias \`*${p.name}\` unfolds to far too many values.`,
    () => 'Write the values out, or let fewer aliases refer to other aliases.',
  ),
  'yaml-alias-unknown': error<{ name: string }>(
    (p) => `The alias \`*${p.name}\` has no anchor \`&${p.name}\` before it.`,
    () => 'Set the anchor on an earlier value, or quote the text if it only starts with `*`, as a glob may.',
  ),
  'yaml-tag': error<{ tag: string }>(
    (p) => `YAML takes \`${p.tag}\` for a tag, not for text.`,
    (p) => `Put it in quotes: "${p.tag}".`,
  ),
  'yaml-glob': error<{ glob: string }>(
    (p) => `YAML takes the \`{\` of \`${p.glob}\` for the start of a map.`,
    (p) => `Put the glob in quotes: "${p.glob}".`,
  ),
  'yaml-documents': error(
    () => 'The project file holds more than one YAML document.',
    () => 'Remove the `---` line and what belongs to the other document.',
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
    (p) => `\`${p.key}\` takes ${p.expected}; \`${p.found}\` is none.`,
    (p) => p.about,
  ),
  'unknown-value': error<{ key: string; value: string; suggestion: string }>(
    (p) => `\`${p.value}\` is not a value of \`${p.key}\`.`,
    (p) => p.suggestion,
  ),
  'unknown-step': error<{ name: string; suggestion: string }>(
    (p) => `There is no step \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'step-form': error<{ found: string }>(
    (p) => `A step is a name, or a map from one name to its options; this is ${p.found}.`,
    () => 'Write `- compile`, or `- minify: { only: production }`, one step an item.',
  ),
  'unknown-profile': error<{ name: string; suggestion: string }>(
    (p) => `There is no profile \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'profile-cycle': error<{ names: readonly string[] }>(
    (p) => `Profiles extend each other in a circle: ${p.names.join(' → ')}.`,
    () => 'Let one of them stand on its own.',
  ),
  'unknown-pipeline': error<{ name: string; suggestion: string }>(
    (p) => `There is no pipeline \`${p.name}\`.`,
    (p) => p.suggestion,
  ),
  'pipeline-name': error<{ name: string }>(
    (p) => `\`${p.name}\` cannot name a pipeline or a profile.`,
    () => 'Use letters, digits, `-`, `_` and `.`, and start with a letter or a digit.',
  ),
  'browsers-query': error<{ query: string; reason: string }>(
    (p) => `The target browsers \`${p.query}\` cannot be resolved: ${p.reason}.`,
    () => 'Use the Browserslist query language, such as "> 0.5%, last 2 versions, not dead".',
  ),
  'path-outside': error<{ key: string; path: string }>(
    (p) => `\`${p.key}\` leads out of the project: ${p.path}`,
    () => 'Name a path inside the folder that holds the project file, relative to it.',
  ),
  'path-reserved': error<{ key: string; path: string; folder: string }>(
    (p) => `\`${p.key}\` leads into \`${p.folder}\`: ${p.path}`,
    () => 'Nothing is ever written to `.git`, `node_modules` or `.anvil-cache`. Name another folder.',
  ),
  'path-form': error<{ key: string; path: string; problem: string }>(
    (p) => `\`${p.key}\` is not a path the project file can hold: ${p.path} ${p.problem}.`,
    () => 'Write paths relative to the project file, with `/` between folders.',
  ),
  'glob-slow': error<{ glob: string; reason: string }>(
    (p) => `\`${p.glob}\` ${p.reason}, so matching it could take for ever.`,
    () => 'Use fewer wildcards, or several globs.',
  ),
  'only-negations': error(
    () => '`from` has nothing but negations, so it matches nothing.',
    () => 'Put a glob that matches files before them: `!glob` takes matches away from the globs before it.',
  ),

  // The plan
  'glob-empty': warning<{ glob: string; pipeline: string; suggestion: string }>(
    (p) => `\`${p.glob}\` of the pipeline \`${p.pipeline}\` matches no file.`,
    (p) => p.suggestion,
  ),
  'constant-variable': warning<{ name: string; value: string }>(
    (p) => `The constant \`${p.name}\` is the text \`${p.value}\`: values are not read from the environment.`,
    () => 'Write the value itself.',
  ),
  'match-empty': warning<{ glob: string; step: string; assets: string }>(
    (p) => `\`${p.glob}\` matches nothing that comes to \`${p.step}\`, so the step does nothing.`,
    (p) => `What comes to it: ${p.assets}. Without \`/\`, \`match\` is compared with file names.`,
  ),
  'output-conflict': error<{ output: string; by: string }>(
    (p) => `${p.output} would be written twice: ${p.by}.`,
    () => 'Give one of them another `to`, another `base`, or another name.',
  ),
  'output-over-source': error<{ output: string; pipeline: string }>(
    (p) => `The pipeline \`${p.pipeline}\` would overwrite the source ${p.output}.`,
    () => 'Give the pipeline another `to`.',
  ),
  'pipeline-cycle': error<{ names: readonly string[]; reasons: readonly string[] }>(
    (p) => `Pipelines wait for each other in a circle: ${p.names.join(' → ')}.`,
    (p) => `${p.reasons.join('; ')}. Take one of these away.`,
  ),

  'base-outside': error<{ source: string; base: string; pipeline: string }>(
    (p) => `${p.source} of the pipeline \`${p.pipeline}\` does not lie in its base ${p.base}.`,
    () => 'Name a folder that holds every source, or leave `base` out.',
  ),

  // Files
  'file-unreadable': error<{ reason: string }>(
    (p) => `The file cannot be read: ${p.reason}.`,
    () => 'Check its rights, and that it is a file.',
  ),
  'folder-unreadable': error<{ reason: string }>(
    (p) => `The folder cannot be read: ${p.reason}.`,
    () => 'Nothing was built or removed. Check its permissions, or exclude it with `!`, then build again.',
  ),
  'not-utf8': error<{ offset: number }>(
    (p) => `The file is not UTF-8 text: byte ${p.offset} does not belong there.`,
    () => 'Save it as UTF-8, or keep it out of this step with `match`.',
  ),

  // Steps
  'compiler-ended': error<{ language: string; reason: string }>(
    (p) => `The compiler of ${p.language} does not run: ${p.reason}.`,
    () => 'Build again. If it comes back, see that there is memory left, and install the packages anew with `npm ci`.',
  ),
  'compiler-slow': error<{ language: string; seconds: number }>(
    (p) =>
      `${p.language} did not finish this file within ${p.seconds === 1 ? 'a second' : `${String(p.seconds)} seconds`}.`,
    () => 'Look for a loop that never ends; if the file is only large, raise `timeLimit` of `compile`.',
  ),
  sass: error<{ message: string; near?: string }>(
    (p) => p.message,
    (p) => {
      if (p.near !== undefined) return `Did you mean \`${p.near}\`?`;
      if (/^Undefined /.test(p.message))
        return 'Check the spelling, and that this sheet loads the one that defines it.';
      if (/^Can't find stylesheet/.test(p.message))
        return 'Sass searches the folder of this sheet, then `loadPaths` of `compile`. For npm packages, write `pkg:name`.';
      return 'Correct the sheet at this position.';
    },
  ),
  'sass-warning': warning<{ message: string }>(
    (p) => p.message,
    () => 'This comes from `@warn` or from Sass itself; the result is used all the same.',
  ),
  'sass-deprecated': warning<{ message: string; kind: string; instead?: string }>(
    (p) => `${p.message} (${p.kind})`,
    (p) =>
      p.instead === undefined
        ? 'It works today; a later version of Sass will refuse it.'
        : `Write ${p.instead}; a later version of Sass will refuse it as it is.`,
  ),
  typescript: error<{ message: string; number: number }>(
    (p) => `${p.message} (TS${p.number})`,
    () => 'The position is where the compiler stopped; fix the file and build again.',
  ),
  tsconfig: error<{ message: string; number: number }>(
    (p) => `${p.message} (TS${p.number})`,
    () => 'Fix the compiler settings; they are read for what concerns one file at a time.',
  ),
  'jsx-undecided': error<{ found: string }>(
    (p) => `This file has JSX, and ${p.found} how to turn it into calls.`,
    () =>
      'Set "jsx" in the "compilerOptions" of tsconfig.json to "react-jsx" (with "jsxImportSource") or to "react" (with "jsxFactory").',
  ),
  'syntax-unsupported': warning<{ what: string; browser: string }>(
    (p) => `${p.what} does not work in ${p.browser}, one of the target browsers.`,
    () => 'It cannot be compiled to older syntax. Rewrite it, or remove that browser from `browsers`.',
  ),
  'script-syntax': error<{ message: string }>(
    (p) => `The script cannot be parsed: ${p.message}.`,
    () => 'Fix the syntax; for a typed script, put `compile` before this step.',
  ),
  'script-kind': error<{ kind: string; advice: string }>(
    (p) => `This is no JavaScript; it looks like ${p.kind}.`,
    (p) => p.advice,
  ),
  'property-taken': error<{ property: string; shortName: string }>(
    (p) => `The property \`${p.property}\` is to become \`${p.shortName}\`, which is in this script already.`,
    (p) => `Take \`${p.property}\` out of \`renameProperties\`, or give \`${p.shortName}\` another name.`,
  ),
  'style-syntax': error<{ message: string }>(
    (p) => `The style sheet cannot be parsed: ${p.message}.`,
    () => 'Fix the syntax; for a sheet in another language, put `compile` before this step.',
  ),
  'style-skipped': warning<{ message: string }>(
    (p) => `Browsers will skip this part of the sheet: ${p.message}.`,
    () => 'It is kept as written. Fix it, or remove it.',
  ),
  'too-deep': error(
    () => 'The file is nested too deeply to be read.',
    () => 'Flatten it, or keep it out of this step with `match`.',
  ),
  'step-passed': warning<{ step: string; kind: string }>(
    (p) => `\`${p.step}\` has nothing to do with ${p.kind}; they go on as they are.`,
    () => 'Keep such files out of the step with `match`, or copy them in a pipeline without steps.',
  ),
  'join-kinds': error<{ first: string; second: string }>(
    (p) => `\`join\` cannot put ${p.first} and ${p.second} into one file.`,
    () => 'Give each kind a pipeline of its own, or choose files with `match`.',
  ),
  'join-unknown': error<{ file: string }>(
    (p) => `\`join\` knows scripts and style sheets, and ${p.file} is neither.`,
    () => 'Choose the files to join with `match`, or compile them first.',
  ),
  'join-module': error(
    () => 'This script has import or export statements, so it cannot be joined with others as it is.',
    () => 'Leave `join` out for modules: browsers load them by <script type="module">.',
  ),
  'join-twice': error<{ name: string; first: string }>(
    (p) => `\`${p.name}\` is declared at the top of this script and of ${p.first}, which one file may not do.`,
    () => 'Rename one of them, or wrap one of the scripts in a block or a function.',
  ),
  'join-strict': warning<{ file: string }>(
    (p) => `"use strict" of ${p.file} would reach the other scripts of the joined file, so it is left out.`,
    () => 'Scripts that share top-level names have to agree: make all of them strict, or none, or join them apart.',
  ),

  // References
  'import-missing': error<{ url: string; path: string; near: string | undefined }>(
    (p) => `\`${p.url}\` leads to ${p.path}, which no pipeline writes and which is not there.`,
    (p) =>
      p.near === undefined ? 'Add the module to a pipeline, or correct the path.' : `Did you mean \`${p.near}\`?`,
  ),
  'import-name': error<{ name: string; url: string; suggestion: string }>(
    (p) => `\`${p.url}\` has no export \`${p.name}\`.`,
    (p) => `${p.suggestion} If it is a type, write \`import type\` or \`export type\`.`,
  ),
  'import-bare': error<{ name: string }>(
    (p) => `Browsers cannot find \`${p.name}\` by its name.`,
    () =>
      'Import a module by its path or URL, or define the name in an import map of the page. `paths` of tsconfig.json only concern the type checker.',
  ),
  'import-builtin': error<{ name: string }>(
    (p) => `\`${p.name}\` is a module of Node.js, which browsers do not have.`,
    () => 'Use what browsers have in its place, or keep the script out of the site.',
  ),
  'import-type': error<{ url: string; type: string }>(
    (p) => `Browsers take \`${p.url}\` for a script, since the import does not say that it is something else.`,
    (p) => `Add \`with { type: "${p.type}" }\` to the import, or load the file with \`fetch\`.`,
  ),
  'script-require': error<{ name: string }>(
    (p) => `\`require("${p.name}")\` ends the script in browsers: they have no \`require\`.`,
    () => 'Write the script as a module, with `import` and `export`.',
  ),
  'reference-missing': warning<{ url: string; path: string; near: string | undefined }>(
    (p) => `\`${p.url}\` leads to ${p.path}, which no pipeline writes and which is not there.`,
    (p) => (p.near === undefined ? 'Add the file to a pipeline, or correct the URL.' : `Did you mean \`${p.near}\`?`),
  ),

  // Publishing
  'output-foreign': error<{ output: string }>(
    (p) => `${p.output} is already there and was not written by Loyal Anvil.`,
    () => 'Move or remove it, choose another `to`, or run the build with --force to replace it.',
  ),
  'output-edited': warning<{ output: string; did: string }>(
    (p) => `${p.output} was changed by hand since it was written; it is ${p.did}.`,
    () => 'Take the change over into its source; then run the command with --force.',
  ),
  'output-unwritable': error<{ output: string; reason: string }>(
    (p) => `${p.output} cannot be written: ${p.reason}.`,
    () =>
      'Nothing of this pipeline was published; the last good output stays. Make room or fix the permissions, then build again.',
  ),
  'record-unreadable': error<{ reason: string }>(
    (p) => `The record of written outputs cannot be read: ${p.reason}.`,
    () =>
      'Nothing was built: without the record, outputs cannot be told from your own files. Check its permissions; if it is not a regular file, remove it.',
  ),
  'record-untrusted': warning<{ ignored: string }>(
    (p) =>
      `The record of written outputs was not made in this folder, and names files that no pipeline writes: ${p.ignored}.`,
    () => 'They are left alone and forgotten. If they are old outputs, remove them yourself.',
  ),
  'project-shared': warning<{ id: number; profile: string; isSession: boolean }>(
    (p) =>
      `${p.isSession ? 'A session' : 'A build'} for \`${p.profile}\` is running on this project (process ${String(p.id)}), and writes the same outputs.`,
    (p) =>
      p.isSession
        ? 'The session replaces these outputs at its next change. End it before you build a release.'
        : 'What is written last stays. Build again when the other build has ended.',
  ),
  'outputs-restored': note<{ outputs: string }>(
    (p) => `Another build had replaced outputs of this session; they are written again: ${p.outputs}.`,
    () => 'To keep the outputs of the other build, end the session first.',
  ),
  'record-unwritable': error<{ path: string; reason: string }>(
    (p) => `The list of written outputs cannot be kept in ${p.path}: ${p.reason}.`,
    () =>
      'Nothing was written: the next build would take its own outputs for files of yours. Make room or fix the permissions.',
  ),
  'store-unusable': warning<{ reason: string }>(
    (p) => `Results cannot be kept for the next build: ${p.reason}.`,
    () => 'This build is right all the same; the next one does everything again. Make room or fix the permissions.',
  ),

  // Explaining
  'why-unknown': error<{ path: string; profile: string; near: string | undefined }>(
    (p) => `The last build for ${p.profile} knows nothing of ${p.path}.`,
    (p) =>
      p.near === undefined
        ? 'Build first, or look with `loyal-anvil list --verbose` which sources and outputs there are.'
        : `Did you mean \`${p.near}\`? If the file is new, build first.`,
  ),
  'why-unbuilt': error<{ profile: string }>(
    (p) => `Nothing is known yet: no build for ${p.profile} has left anything behind.`,
    () => 'Build first with `loyal-anvil build`, or name with --profile what was built.',
  ),

  // Watching
  'watch-limit': warning<{ seconds: number }>(
    () => 'The system allows no more folders to be watched; the files are looked at by the clock instead.',
    (p) =>
      `Changes are seen within ${p.seconds === 1 ? 'a second' : `${String(p.seconds)} seconds`}. To be told of them at once, raise the system's limit of watches.`,
  ),

  'project-gone': error<{ folder: string }>(
    (p) => `The project folder ${p.folder} was moved, removed or replaced.`,
    () => 'The session has ended, and nothing was written. Start it again where the project is now.',
  ),

  // Serving
  'serve-missing': error(
    () => 'The project file does not say what to serve.',
    () => 'Add it: `serve: { folder: site }`, with the folder that the pipelines write to.',
  ),
  'serve-address': error<{ host: string; port: number; reason: string }>(
    (p) => `The server cannot listen on ${p.host}, port ${String(p.port)}: ${p.reason}.`,
    () => 'Choose others with --host and --port, or under `serve` in the project file.',
  ),
  'serve-later': warning(
    () => 'Host, port, hosts or proxies in `serve` are others now; this run goes on with the ones it began with.',
    () => 'End the server and start it again to use them.',
  ),

  // init
  'init-exists': error<{ file: string }>(
    (p) => `${p.file} is already there.`,
    () => 'Nothing was written. Edit the file, or move it away to start again.',
  ),
  'init-nothing': error<{ folder: string }>(
    (p) => `Nothing in ${p.folder} looks like style sheets, scripts or pages.`,
    () =>
      'Put sources into folders such as styles, scripts and pages first, or write anvil.yaml by hand as the README shows.',
  ),
  'init-package': error<{ reason: string }>(
    (p) => `package.json was left as it is: ${p.reason}.`,
    () => 'Add the scripts by hand, or fix the file and run the command again.',
  ),
};

/** A stable name of one kind of diagnostic. */
export type Code = keyof typeof catalogue;

/** What the sentences of one code need to know. */
export type Parameters<C extends Code> = (typeof catalogue)[C] extends Entry<infer P> ? P : never;
