import type { Code } from './catalogue.js';

/** What each code means, and what to do about it, whatever the single case: for SARIF and for the docs. */
export const diagnosticHelp: Readonly<Record<Code, string>> = {
  usage:
    'The program was called with a command, an option or an argument that it does not know or that does not fit. The help of each command shows what there is.',
  interrupted:
    'The run was ended by a signal before it was done. Outputs are written as a whole or not at all, so nothing is half-written; run it again.',
  internal:
    'A defect of the tool. A report with the files that show it, and with what --verbose adds, helps to fix it.',

  'project-missing':
    'No anvil.yaml was found in the working folder or in any folder above it. `init` writes one; --config names another file.',
  'project-unreadable': 'The project file is there but cannot be read, or --config names a file that is not there.',
  'project-empty': 'The project file holds nothing. It needs at least one pipeline.',
  'yaml-syntax':
    'The project file is no YAML 1.2. The position is where reading stopped; often the mistake stands in the line before.',
  'yaml-tab': 'Lines of the project file are indented with tabs, which YAML does not allow. Use spaces.',
  'yaml-duplicate-key': 'A map of the project file has the same key twice, so one of the two would be lost.',
  'yaml-alias-bomb': 'Aliases refer to aliases so often that they unfold to far too many values. Write the values out.',
  'yaml-alias-unknown':
    'An alias refers to an anchor that is not set before it. A glob that begins with `*` has to be quoted.',
  'yaml-tag':
    'A text begins with `!`, which stands before the names of tags in YAML. A glob that takes matches away has to be quoted.',
  'yaml-glob':
    'A glob with braces stands in a list or map in brackets without quotes, so that YAML takes the brace for the start of a map.',
  'yaml-documents': 'The project file holds several YAML documents; it is to be one.',

  'unknown-key':
    'A key is not one that this part of the project file has; it would be without effect. The nearest right one is offered.',
  'missing-key': 'A key that is needed is not there.',
  'wrong-type': 'The value of a key is of another kind than the key takes.',
  'key-form': 'A key of a map is not of the form that all keys of this map have.',
  'unknown-value': 'The value of a key is none of those that it can have.',
  'unknown-step': 'A pipeline names a step that does not exist. The nearest right name is offered.',
  'step-form': 'An entry of `steps` is neither a name nor a map from one name to its options.',
  'unknown-profile':
    'A profile is named that does not exist. Those of the project file exist, and always `development` and `production`.',
  'profile-cycle': 'Profiles extend each other in a circle, so none of them can be worked out.',
  'unknown-pipeline': 'A pipeline is named that does not exist. The nearest right name is offered.',
  'pipeline-name': 'A name has signs in it that names of pipelines and profiles cannot have.',
  'browsers-query': 'A query for target browsers is not understood. It is written in the Browserslist query language.',
  'path-outside': 'A path leads out of the project. Nothing is read from or written to there.',
  'path-reserved': 'Outputs would be written into `.git`, `node_modules` or `.anvil-cache`.',
  'path-form':
    'A path is absolute, or has signs in it that are not portable. Paths are relative to the project file, with `/` between folders.',
  'glob-slow': 'A glob has so many wildcards that matching a long name against it could take for ever.',
  'only-negations': 'All globs of a `from` take matches away, and there are none to take them from.',

  'glob-empty': 'A glob matches no file, so it is most likely misspelt or the files are not there yet.',
  'constant-variable':
    'A constant looks like a variable of the environment, which the project file does not read. Scripts see the text as it is.',
  'match-empty':
    'The `match` of a step fits none of the assets that come to it, so it is most likely misspelt. Extensions are those that earlier steps give.',
  'output-conflict':
    'Two sources would be written to the same output. Nothing is built, since one of them would be lost.',
  'output-over-source': 'An output would be written over a source. Nothing is built.',
  'pipeline-cycle': 'Pipelines wait for each other in a circle, by what they read or by `after`.',
  'base-outside':
    'A source does not lie in the `base` of its pipeline, so it is not known what is to be kept of its path.',

  'file-unreadable': 'A file that is needed cannot be read: because of its rights, or because it is no file.',
  'folder-unreadable':
    'A folder that a glob searches exists but cannot be read, or is a symbolic link that leads out of the project. It does not count as empty: nothing is built, and no output is removed.',
  'not-utf8': 'A file that a step has to read as text is not UTF-8.',

  'compiler-ended':
    'The process of a compiler could not be started, or was ended while it was at work; most often there was no memory left, for the sheet that is named or for others at work beside it. The next build starts it anew.',
  'compiler-slow':
    'A compiler took longer for one file than `timeLimit` of `compile` allows. It was ended, so that the build could go on.',
  sass: 'Sass cannot compile a sheet. The message is its own; the position is where it stopped.',
  'sass-warning': 'A warning of `@warn`, or of Sass itself. The result is used.',
  'sass-deprecated': 'A sheet uses something that a later version of Sass will refuse. The result is used.',
  typescript: 'TypeScript cannot read a script. The message is its own; the position is where it stopped.',
  tsconfig: 'The TypeScript settings that concern a script are wrong. The message is the compiler’s own.',
  'jsx-undecided': 'A script has JSX, and nothing says what to turn it into.',
  'syntax-unsupported':
    'A script uses syntax that a target browser does not support and that cannot be compiled to older syntax. That browser rejects the whole script.',
  'script-syntax': 'A script cannot be parsed, so that it cannot be joined or minified.',
  'script-kind': 'A file with the name of a script cannot be parsed as one, and looks like something else.',
  'property-taken': 'A property cannot get the short name that its place in `renameProperties` gives it.',
  'style-syntax': 'A style sheet cannot be parsed, so that it cannot be prefixed, joined or minified.',
  'style-skipped': 'Browsers will skip a part of a style sheet, because it is not valid. It is kept as written.',
  'too-deep': 'A file is nested so deeply that it cannot be read with the memory there is.',
  'step-passed': 'A step has nothing to do with files of a kind; they went on as they are.',
  'join-kinds': 'Files of different kinds cannot become one file.',
  'join-unknown': 'A file is of a kind that `join` does not know.',
  'join-module': 'A script with import or export statements cannot be joined with others as it is.',
  'join-twice': 'Two scripts declare the same name at their top, which one file may not do.',
  'join-strict': 'A "use strict" that would reach other scripts of a joined file was left out.',

  'import-missing': 'A script imports a module that is not among the outputs, so that no browser can run it.',
  'import-name': 'A script imports a name that the module does not export, so that no browser can run it.',
  'import-bare':
    'A script imports a module by the name of a package. Browsers only find it if an import map of the page defines the name.',
  'import-builtin': 'A script imports a module that only Node.js has.',
  'import-type': 'A script imports a JSON file or a style sheet without the attribute that tells browsers what it is.',
  'script-require': 'A script calls `require`, which browsers do not have.',
  'reference-missing':
    'A page, a style sheet or a script refers to a file that is neither an output nor in the site. The result is published as it is.',

  'output-foreign': 'At the place of an output there is a file that the tool did not write. It stays as it is.',
  'output-edited': 'An output was changed by hand since it was written. It stays as it is, unless --force is given.',
  'output-unwritable': 'An output cannot be written. Nothing of its pipeline was published.',
  'record-unreadable':
    'The record of written outputs exists but cannot be read, is not a regular file, or is a symbolic link. Without it, nothing is built or removed.',
  'record-untrusted':
    'The record of written outputs came with a copy or a checkout. Only entries for files that pipelines write are believed; others are ignored, so that a record cannot have files of yours removed.',
  'project-shared':
    'Another process of the tool builds the same project. Outputs are written as a whole, but those of two profiles may be mixed.',
  'outputs-restored': 'A session wrote outputs again that a build beside it had replaced.',
  'record-unwritable':
    'The list of written outputs cannot be kept, and without it the tool would not know its own files again.',
  'store-unusable': 'Results cannot be kept for the next build, which will do everything again.',

  'why-unknown': 'A path is asked about that the last build did not come across.',
  'why-unbuilt': 'A path is asked about before anything was built.',

  'watch-limit':
    'The system does not allow any more folders to be watched. Files are looked at by the clock instead, which takes longer.',

  'project-gone': 'The project folder was moved, removed or replaced while a session was open, which ends it.',

  'serve-missing': 'The project file does not say which folder is to be served.',
  'serve-address': 'The server cannot listen on the host and port that it is told.',
  'serve-later': 'Settings of the server that hold from its start to its end were changed while it was running.',

  'init-exists': 'There is a project file already, which stays as it is.',
  'init-nothing': 'There is nothing in the folder that a project file could be written for.',
  'init-package': 'The scripts could not be added to package.json, which stays as it is.',
};
