import { error, warning } from './entry.js';

/** Diagnostics of compiling, joining and minifying scripts and style sheets. */
export const scriptsAndSheets = {
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
  'syntax-inexact': warning<{
    what:
      | 'arguments'
      | 'accessor'
      | 'builtin'
      | 'super'
      | 'static super'
      | 'async super'
      | 'early this'
      | 'static this'
      | 'static member'
      | 'member';
    name: string;
  }>(
    (p) =>
      ({
        arguments:
          'In browsers without generators and arrow functions, `arguments` would be those of another function here.',
        accessor: `In browsers without computed names, the accessor \`${p.name}\` is not enumerable.`,
        member: 'In browsers without classes, accessors that `super` leads to get the prototype as `this`.',
        super: 'For browsers without classes, `super` in a method of an object literal cannot be compiled.',
        'static super': 'For browsers without classes, `super` in a static block or a static field cannot be compiled.',
        'async super': `For browsers without asynchronous functions or generators, \`${p.name}\` cannot be compiled here.`,
        'early this':
          '`this` is read before `super()`, which throws an error in browsers with classes, and is `undefined` in those without.',
        'static this':
          'For browsers without classes, `this` in a static block or a static field of a class with private members cannot be compiled in a loop.',
        'static member': `For browsers without classes, the static accessors and static blocks of \`${p.name}\` cannot be compiled, because it is declared in a block.`,
        builtin: `In browsers without classes, \`new\` creates a plain \`${p.name}\`, not an instance of this class.`,
      })[p.what],
    (p) =>
      ({
        arguments: 'Use a rest parameter.',
        accessor: 'Write the object without computed names, or use `Object.defineProperty`.',
        member: 'Call a method instead, or ignore this if the property is no accessor.',
        super: 'Call the method of the prototype by its name.',
        'static super': 'Use it in a static method, and call that.',
        'async super': 'Move it to a separate method that is not asynchronous, and call that method.',
        'early this': 'Move it after the call of `super`.',
        'static this': 'Use the name of the class, or declare the class outside the loop.',
        'static member': 'Declare the class outside the block, or use static methods.',
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
  'class-super': error(
    () => 'This call of `super` cannot be compiled to older syntax, because it is part of something else.',
    () =>
      'Write `super(…);` as a statement of its own in the constructor, or choose browsers that know classes with fields.',
  ),
  'compiled-impossible': error(
    () => 'The compiler cannot write this statement in syntax that all target browsers know.',
    () => 'Write it in several statements, or choose newer target browsers.',
  ),
  'compiled-invalid': error(
    () => 'This script cannot be compiled for the target browsers: the output of the compiler is not valid JavaScript.',
    () => 'Look for `super` in private methods, and for `await` in unusual places, or choose newer target browsers.',
  ),
  'class-field-scope': error<{ name: string }>(
    (p) =>
      `The field uses \`${p.name}\`, which means something else in the constructor that initializes it in older browsers.`,
    (p) => `Give \`${p.name}\` another name in the constructor.`,
  ),
};
