import type { Code } from './catalogue/index.js';

/** The meaning of each code, independent of a single case: for SARIF and the docs. */
export const diagnosticHelp: Readonly<Record<Code, string>> = {
  usage:
    'The command line contains an unknown or invalid command, option or argument. Each command lists its options with --help.',
  interrupted: 'A signal ended the run. Outputs are written completely or not at all. Run the command again.',
  internal: 'A bug in Loyal Anvil. Please report it with the files that cause it and the output of --verbose.',

  'project-missing':
    'No anvil.yaml was found in the working folder or any parent folder. `init` creates one; --config specifies another file.',
  'project-unreadable': 'The project file exists but cannot be read, or --config specifies a file that does not exist.',
  'project-empty': 'The project file is empty. It needs at least one pipeline.',
  'yaml-syntax':
    'The project file is not valid YAML 1.2. The mistake is often in the line before the reported position.',
  'yaml-tab': 'The project file is indented with tabs, which YAML does not allow. Use spaces.',
  'yaml-duplicate-key': 'A map in the project file contains the same key twice.',
  'yaml-alias-bomb': 'Nested aliases expand to too many values. Write the values out.',
  'yaml-alias-unknown': 'An alias refers to an undefined anchor. A glob that begins with `*` has to be quoted.',
  'yaml-tag': 'A value begins with `!`, which introduces a tag in YAML. Quote globs that begin with `!`.',
  'yaml-glob': 'An unquoted glob with braces in a flow list or map is read as the start of a map.',
  'yaml-documents': 'The project file contains several YAML documents; only one is allowed.',

  'unknown-key': 'A key does not exist in this part of the project file. The message suggests the nearest valid key.',
  'missing-key': 'A required key is missing.',
  'wrong-type': 'A value has the wrong type.',
  'key-form': 'A key of a map does not have the required form.',
  'unknown-value': 'A value is not one of the allowed values.',
  'unknown-step': 'A pipeline uses a step that does not exist. The message suggests the nearest step.',
  'step-form': 'An item of `steps` is neither a name nor a map with one key.',
  'unknown-profile':
    'The profile does not exist. `development` and `production` always exist, others are defined in the project file.',
  'profile-cycle': 'Profiles extend each other in a circle.',
  'unknown-pipeline': 'The pipeline does not exist. The message suggests the nearest name.',
  'pipeline-name': 'The name of a pipeline or profile contains characters that are not allowed.',
  'browsers-query': 'The query for target browsers is not valid in the Browserslist query language.',
  'path-outside': 'A path is outside the project, where nothing is read or written.',
  'path-reserved': 'Outputs would be written into `.git`, `node_modules` or `.anvil-cache`.',
  'path-form': 'A path is absolute or not portable. Paths are relative to the project file, with `/` as separator.',
  'path-placeholder': 'Braces in folders that are written to stand for the profile, or are a mistake.',
  'glob-slow': 'A glob has so many wildcards that matching could be extremely slow.',
  'only-negations': 'All globs of a `from` are negated, so there is nothing to exclude from.',

  'glob-empty':
    'A glob matches no files, because it is misspelt or the files do not exist yet, or it matches only partials.',
  'constant-variable':
    'A constant looks like an environment variable, which is not expanded. Scripts receive the literal text.',
  'constant-unset': 'A constant that an environment variable has needs the variable, or a default value.',
  'constant-type': 'The text of an environment variable is converted to the type of the constant.',
  'constant-secret': 'Constants with `secret` are for commands and functions; outputs must not contain them.',
  'secret-written': 'The value of a secret constant must not reach any output.',
  'profile-conflict': 'Profiles that are built together may not write the same files.',
  'match-empty':
    'The `match` of a step matches none of its assets. File extensions are those after the preceding steps.',
  'names-empty': 'A glob of `plainNames` matches no output of any pipeline.',
  'limit-empty': 'An entry of `limits` does not count anything, because no pipeline writes such an output.',
  'limit-exceeded':
    'All outputs that an entry of `limits` stands for are larger together than it allows. Nothing is published; previous outputs are kept.',
  'output-conflict': 'Two assets have the same output path. Nothing is written, because one of them would be lost.',
  'name-unknown':
    'With names that contain a hash of the content, a file that refers to another one cannot be published before the name of that is known.',
  'output-over-source': 'An output would be written over a source. Nothing is built.',
  'pipeline-cycle': 'Pipelines depend on each other in a circle, through files that they read or through `after`.',
  'base-outside': 'A source is outside the `base` folder of its pipeline, so its output path is undefined.',

  'file-unreadable':
    'A required file does not exist, is not a regular file, or its permissions do not allow reading it.',
  'folder-unreadable':
    'A folder searched by a glob cannot be read, or is a symbolic link to a place outside the project. Nothing is built and no output is removed.',
  'merge-conflict':
    'A source, or a file that a step reads, has the lines with which Git marks what it cannot merge. Other errors in the file are not reported.',
  'not-utf8': 'A file that a step reads as text is not valid UTF-8.',

  'compiler-ended':
    'A compiler process could not be started or was terminated, usually because the system ran out of memory. The next build starts it again.',
  'compiler-slow': 'A compiler exceeded `timeLimit` of `compile` for one file and was terminated.',
  sass: 'Sass cannot compile a style sheet. The message comes from Sass.',
  'sass-warning': 'A warning from `@warn` or from Sass. The result is used.',
  'sass-deprecated': 'A style sheet uses a feature that a future version of Sass will reject. The result is used.',
  compiler: 'The compiler of a language has found an error.',
  typescript: 'TypeScript cannot parse a script. The message comes from TypeScript.',
  tsconfig: 'The TypeScript settings that apply to a script are invalid. The message comes from TypeScript.',
  'jsx-undecided': 'A script contains JSX, but no setting defines how to compile it.',
  'syntax-unsupported':
    'A script uses syntax that a target browser does not support and that cannot be compiled to older syntax. That browser rejects the whole script.',
  'syntax-inexact': 'Some of what is new in the language cannot be written exactly in its version of 2009.',
  'attribute-unsupported':
    'Imports of JSON and style sheets need an import attribute, and browsers without support reject the whole script. `link` puts what is imported into the script.',
  'script-syntax': 'A script cannot be parsed, so it cannot be joined or minified.',
  'script-kind': 'A file with the extension of a script contains something else.',
  'property-taken': 'A property cannot be renamed, because its new name is already in use.',
  'style-syntax': 'A style sheet cannot be parsed, so it cannot be prefixed, joined or minified.',
  'style-skipped': 'A part of a style sheet is invalid, so browsers ignore it. It is kept as is.',
  'too-deep': 'A file is too deeply nested for the available memory.',
  'step-passed': 'A step does not handle files of this kind; they pass through unchanged.',
  'join-kinds': 'Files of different kinds cannot be joined.',
  'join-unknown': 'A file is neither a script nor a style sheet.',
  'join-module': 'An ES module cannot be joined with other scripts.',
  'join-twice': 'Two scripts declare the same name at the top level, which is a syntax error in one file.',
  'join-strict': 'A "use strict" that would apply to other joined scripts was omitted.',
  'join-order':
    'A script uses a name at load time that a later script declares with `let`, `const` or `class`. In separate files it refers to a global; in one file it throws a ReferenceError.',
  'link-missing':
    'Relative imports name files, other imports name installed packages or `#name` of the package’s own `imports`. They are resolved as Node.js does.',
  'link-package': 'Packages are looked for in the node_modules folders from the importing file upwards.',
  'link-subpath': 'A package with `exports` in its package.json can only be imported by the paths that these define.',
  'link-url': 'The URL is left as it is.',
  'link-worker': 'Browsers report a syntax error when a classic worker contains `import` or `export`.',
  'link-script':
    'A classic script is one file, with everything in it that `import()` loads; its code cannot wait while it is evaluated. Imports of listed `external` specifiers are possible if a global variable is given.',
  'link-node-name': 'The code throws a ReferenceError when it gets there.',
  'link-require-name':
    'CommonJS modules can only be linked if the names of the modules that they require are constant.',
  'link-require-mixed':
    'A script with `import` or `export` is an ES module, in which `require` is not defined. Modules of packages may check for it, so that only those of the project are looked at.',
  'link-types': 'A package of declarations, such as those of `@types`, has no module that could be linked.',
  'link-builtin': 'Built-in modules of Node.js do not exist in browsers.',
  'link-require':
    'CommonJS packages often try to load optional packages. If this one is not optional, the package fails when it gets there.',
  'link-import-call':
    'The promise that `import()` returns is rejected, which the code handles. A call in the project that does not is an error, like an import.',
  'link-import-computed':
    'What `import()` loads has to be a constant path, so that it is known which modules are linked. Addresses that are computed as a whole are left to the browser.',
  'link-require-module':
    'ES modules are evaluated before the code of the importing module, and not when a function is called.',
  'link-kind': 'A script imports an image, a font, or a file in a language that no step has compiled.',
  'link-sloppy': 'Linked files are ES modules, which are always strict code (ECMA-262, section 11.2.2).',
  'link-sloppy-meaning':
    'A CommonJS module without "use strict" is linked into a module, which is strict (ECMA-262, annex C). Most differences are compiled; this one is not.',
  'link-json': 'A JSON file that is imported has to be valid JSON (RFC 8259).',
  'link-export': 'Browsers reject a module that imports a name which the other module does not export.',
  'link-ambiguous':
    'If two modules export the same name, `export *` of both exports neither; browsers reject a module that imports it.',
  'link-member':
    'A member of a namespace that the module does not export is undefined. Only modules of the project are checked: packages look at members to find out what another version exports.',
  'link-cycle':
    'When modules import each other, one of them is evaluated first, and reading what the others declare fails until they are evaluated, functions aside. Only reads that certainly fail are reported.',
  'link-copies': 'Each copy of a package has its own state, such as registered plug-ins, and is loaded as well.',
  'link-assignment': 'Imports are read-only views of the exports of another module (ECMA-262, section 9.1.1.5).',
  'link-sheet-late':
    '`@import` is only valid before all other rules, except `@charset`, and `@layer` statements before the first import (CSS Cascade Level 5, section 2); `@namespace` is only valid after imports and before all other rules. The rule is left out.',
  'link-sheet-cycle': 'A style sheet that imports itself, directly or by way of others, is not loaded again.',
  'link-sheet-kind':
    'A style sheet imports a script, an image or another file. In a package, `style` names its style sheet.',

  'import-missing': 'A script imports a module that is not among the outputs, so no browser can run it.',
  'import-name': 'A script imports a name that the module does not export, so no browser can run it.',
  'script-invalid':
    'No engine can parse an output as the script that it is. Each script is parsed before it is published; files that are only copied get a warning.',
  'script-newer':
    'A script of a pipeline without `compile` has syntax that a target browser does not know, so that it does not run there.',
  'script-is-module':
    'A page loads a script with `import`, `export` or `import.meta` without `type="module"`, which is a syntax error in browsers.',
  'module-is-script': 'A page loads a script as a module that has syntax which modules, as strict code, do not allow.',
  'import-bare':
    'A script imports a module by a bare specifier. Browsers only resolve it if an import map of the page defines it.',
  'import-builtin': 'A script imports a Node.js module.',
  'import-type': 'A script imports a JSON file or a style sheet without the required import attribute.',
  'script-require': 'A script calls `require`, which browsers do not define.',
  'reference-missing':
    'A page, style sheet or script refers to a file that does not exist in the site. The output is published anyway.',
  'white-space-shown':
    'A style sheet shows white space with `white-space`, and `minify` collapses white space in pages, which it does without reading their style sheets. Rules for elements such as `pre` and `code`, whose text is not changed, do not count.',
  'reference-not-renamed':
    'With `names: hashed`, a reference to a renamed output is written with escapes that cannot be changed safely, so it would lead to nothing. Nothing is published.',
  'inline-refused':
    'An element with the attribute `data-inline` refers to a file whose content cannot be written into the page without changing its meaning. The page loads it instead.',
  'output-read-renamed':
    'With `names: hashed`, references in an output change when all pipelines are done. An output that another pipeline reads has to exist before, at the same path. Files that get a hash in their names are written twice; pages and other files that keep their names cannot be.',
  'step-without-sources': 'A pipeline without `from` has no assets; its steps can only be commands.',
  'command-missing':
    'The first word of a command is a program: one of an installed package, one of the system, or a path relative to the project.',
  'command-failed':
    'A command has failed if it ends with another exit code than 0, or does not end in time. The last lines that it wrote are shown. Nothing of the pipeline is published.',
  'command-no-output': 'A command with `{out}` among its words has to write its result to that file.',
  'command-wrote-nothing':
    'The option `writes` of `run` names files that a command writes by itself. After it ended, none of them exists.',
  'command-writes-unlisted':
    'A command writes a file of the project that a later pipeline reads, and `writes` of `run` does not name it. If the file is removed, or in another clone with a copied store, the command is not run again.',
  'template-code':
    'A page is a Pug template, which may contain JavaScript. Templates of other languages, sheets and pages are data.',
  template: 'The syntax of a template is wrong, or what it does has failed.',
  'template-missing': 'A template includes a part, or a page names a layout, that does not exist.',
  'template-variable': 'Nothing is written in place of variables without a value.',
  'layout-cycle': 'A layout may have a layout itself, but not one that it is already in.',
  'render-now': 'Builds do not depend on the time: the same sources give the same pages.',
  'render-each': '`each` of `render` names a list in the data files.',
  'render-path': 'Each entry of the list needs a path of its own below `to`.',
  'front-matter': 'The values between two lines of `---` at the beginning of a template are a map in YAML.',
  'data-json': 'A data file is not valid JSON (RFC 8259).',
  'data-format': 'Data files are YAML or JSON.',
  'data-name': 'Each data file is a variable with the name of the file, without its extension.',
  'package-missing': 'Languages that not everyone uses are compiled by packages that the project installs itself.',
  'package-broken': 'An installed package fails when it is loaded.',
  'check-nothing': 'The step `check` runs a checker or a command.',
  'check-project': '`check: types` checks the files of a TypeScript project, which a tsconfig.json describes.',
  'check-failed': 'A checker could not run, as opposed to having found something.',
  'check-output': 'What a command finds is only known if it writes it in the form that `findings` names.',
  'cut-mark': 'Comments that begin with `anvil:` say which parts of a file are for which profiles.',
  'cut-profile': 'A part is for a profile that does not exist.',
  'cut-open': 'Each `anvil: only` needs an `anvil: end`.',
  'cut-end': 'Each `anvil: end` needs an `anvil: only`.',
  'cut-imported':
    'A sheet that Sass or Less imports, a part or a layout contains a comment for `cut`. Such files are read by their compilers and do not go through the steps of the pipeline.',
  'licence-missing': 'A package that outputs contain has no information on its licence.',
  'picture-damaged':
    'A picture cannot be made smaller, and has no variants, because it is damaged or has another format than its name says.',
  'variants-nothing': 'Variants of a picture are other widths of it, other formats, or both.',
  'load-after-gather':
    'A step that loads imported files takes each of them through the steps before it. A step that takes all assets of the pipeline together cannot be one of these, unless it passes them on unchanged, as `check` does.',
  'variants-changed': 'Pages say how wide each variant is. Only `recompress` leaves pictures as wide as they were.',
  'class-super':
    'For browsers without class fields, these are initialized in the constructor, after the statement that calls `super`. If the call is part of another statement, they would come into being before it. For browsers without classes, it cannot be in an arrow function either.',
  'compiled-impossible':
    'The TypeScript compiler fails on some code, for example on classes with private members in the head of a loop whose variables functions use.',
  'compiled-invalid':
    'For older browsers, the compiler moves some code to where it is not allowed, such as `super` out of a class. Nothing is published then.',
  'class-field-scope':
    'For browsers without class fields, these are initialized in the constructor. Names that its parameters and variables hide are renamed there, unless they are parameters that become properties, or there is a call of `eval`.',
  'importmap-missing': 'A script or a package imports a package by name that is not installed.',
  'importmap-commonjs': 'A package that an import map leads to has no ES modules.',
  'importmap-there': 'The step `importmap` writes one import map into each page. Browsers may only know one.',
  'apply-missing': 'A step `apply` names a module that does not exist, or its module imports one.',
  'apply-export': 'A step `apply` calls the default export of its module.',
  'apply-options': 'A module of a step `apply` can export a JSON Schema as `schema`, with which `options` are checked.',
  'apply-failed': 'A module of the project cannot be loaded, or its function has thrown an error.',
  'apply-result': 'A function of the project has returned something else than assets.',
  'apply-error': 'A function of the project has reported an error with `context.report`.',
  'apply-warning': 'A function of the project has reported a warning with `context.report`.',
  'references-unknown':
    'With `names: hashed`, a page, style sheet, script or other file that may refer to renamed files cannot be searched for references.',
  'text-not-renamed':
    'With `names: hashed`, a text in a script, in JSON or in an attribute, or a URL with a host, is that of a renamed output. These are not changed, because they may mean something else. If a request is made with one, it leads to nothing.',

  'output-foreign': 'A file that Loyal Anvil did not write exists at the path of an output. It is not changed.',
  'output-edited': 'An output was edited after it was written. It is preserved unless --force is given.',
  'output-now-source':
    'A file that an earlier build wrote is now a source, and no pipeline writes it any more. It is kept, as any source is; a clone of the project does not contain it unless it is committed.',
  'output-unwritable': 'An output cannot be written. Nothing in its pipeline was published.',
  'record-unreadable':
    'The record of written outputs exists but cannot be read, is not a regular file, or is a symbolic link. Without it, nothing is built or removed.',
  'record-untrusted':
    'The record of written outputs comes from a copy or checkout. Only entries for files that pipelines write are used, so that a record cannot cause the removal of your own files.',
  'project-shared':
    'Another process is building the same project. Each output is written completely, but outputs of two profiles may be mixed.',
  'outputs-restored': 'A session restored outputs that another build had replaced.',
  'record-unwritable':
    'The record of written outputs cannot be saved. Without it, outputs cannot be distinguished from your own files.',
  'store-unusable': 'Results cannot be cached, so the next build has to run every job again.',

  'why-unknown': 'The path was not part of the last build.',
  'why-unbuilt': 'There is no previous build to explain.',

  'watch-limit':
    'The operating system does not allow more folders to be watched. Files are polled instead, which detects changes later.',

  'project-gone': 'The project folder was moved, deleted or replaced during a build or a session, which ends it.',

  'serve-missing': 'The project file does not define which folder to serve.',
  'serve-address': 'The server cannot listen on this host and port.',
  'serve-later': 'Server settings that only take effect at startup have changed.',

  'init-exists': 'A project file already exists. It is not changed.',
  'init-nothing': 'The folder contains no sources to create a project file for.',
  'init-package': 'The scripts could not be added to package.json. It was not changed.',
};
