import { error, warning } from './entry.js';

/** Diagnostics of linking. */
export const linking = {
  'link-missing': error<{ specifier: string; near: string | undefined }>(
    (p) => `\`${p.specifier}\` cannot be resolved.`,
    (p) => (p.near === undefined ? 'Check the path.' : `Did you mean \`${p.near}\`?`),
  ),
  'link-types': error<{ specifier: string }>(
    (p) => `The package \`${p.specifier}\` contains types only, and no code.`,
    () => 'Write `import type`, or import the package that the types describe.',
  ),
  'link-package': error<{
    specifier: string;
    name: string;
    isDeclared: boolean;
    near: string | undefined;
    /** The package that needs it as a peer. */
    requiredBy?: string | undefined;
  }>(
    (p) => {
      const declared = p.isDeclared && p.requiredBy === undefined ? 'in package.json, but ' : '';
      const peer = p.requiredBy === undefined ? '' : `, which \`${p.requiredBy}\` requires as a peer dependency`;
      return `\`${p.specifier}\` cannot be resolved: the package \`${p.name}\`${peer}${peer && ','} is ${declared}not installed.`;
    },
    (p) => {
      if (p.requiredBy !== undefined) return `Run \`npm install ${p.name}\`.`;
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
  'link-require-mixed': error<{ specifier: string }>(
    (p) => `\`require('${p.specifier}')\` does not work in an ES module.`,
    (p) => `Write \`import … from '${p.specifier}'\`.`,
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
    () =>
      "Refer to files other than scripts, style sheets, JSON and texts by `new URL('…', import.meta.url)`; import the text of a file `with { type: 'text' }`; compile other languages with `apply`.",
  ),
  'link-sloppy': error(
    () => 'This script has syntax that modules do not allow, such as `with` or octal numbers.',
    () => 'Rewrite it, or load it as a separate script with `join`.',
  ),
  'link-sloppy-meaning': warning<{ what: 'arguments' | 'function' | 'wrapper' }>(
    (p) =>
      ({
        arguments: '`arguments` does not follow assignments of the parameters here: linked code is strict.',
        function: 'This function is not seen outside its block: linked code is strict.',
        wrapper: '`arguments` of the module itself are those of Node.js, and others in a linked file.',
      })[p.what],
    (p) =>
      ({
        arguments: 'Use other variables than the parameters.',
        function: 'Declare it outside the block.',
        wrapper: 'Use `exports`, `require` and `module` by their names.',
      })[p.what],
  ),
  'link-json': error<{ file: string; reason: string; line: number; column: number }>(
    (p) => `${p.file} is not valid JSON: ${p.reason} in line ${String(p.line)}, column ${String(p.column)}.`,
    () => 'Correct it; JSON has no comments and no trailing commas.',
  ),
  'link-export': error<{ name: string; file: string; advice: string }>(
    (p) => `${p.file} has no export \`${p.name}\`.`,
    (p) => p.advice,
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
};
