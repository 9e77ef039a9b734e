// Makes src/core/languages/js/syntax/levels.json from the browser compatibility data: for each edition of the language,
// the first
// version of each browser that supports all syntax of that edition which a compiler can express in older syntax.
import { before, browsers, data, statementsOf, type Feature } from './compatibility.js';
import { writeTable } from './table.js';

const features: Readonly<Record<string, readonly string[]>> = {
  2015: [
    'statements.const',
    'statements.let',
    'classes',
    'functions.arrow_functions',
    'grammar.template_literals',
    'operators.destructuring',
    'operators.spread.spread_in_arrays',
    'operators.spread.spread_in_function_calls',
    'functions.default_parameters',
    'functions.rest_parameters',
    'statements.for_of',
    'statements.generator_function',
  ],
  2016: ['operators.exponentiation'],
  2017: ['statements.async_function', 'grammar.trailing_commas.trailing_commas_in_functions'],
  2018: [
    'operators.spread.spread_in_object_literals',
    'operators.destructuring.rest_in_objects',
    'statements.for_await_of',
    'statements.async_generator_function',
  ],
  2019: ['statements.try_catch.optional_catch_binding'],
  2020: ['operators.optional_chaining', 'operators.nullish_coalescing', 'statements.export.namespace'],
  2021: [
    'operators.logical_and_assignment',
    'operators.logical_or_assignment',
    'operators.nullish_coalescing_assignment',
    'grammar.numeric_separators',
  ],
  2022: [
    'classes.public_class_fields',
    'classes.private_class_fields',
    'classes.private_class_methods',
    'classes.static.class_fields',
    'classes.static.initialization_blocks',
    'classes.private_class_fields_in',
  ],
};

/** Syntax that no compiler can express in older syntax, by the name that identifies it. */
const lasting: Readonly<Record<string, string>> = {
  modules: 'statements.import',
  'top-level await': 'operators.await.top_level',
  bigint: 'builtins.BigInt',
  'import()': 'operators.import',
  'import.meta': 'operators.import_meta',
  'export namespace': 'statements.export.namespace',
  'import attributes': 'statements.import.import_attributes',
  'look-behind': 'regular_expressions.lookbehind_assertion',
  'named group': 'regular_expressions.named_capturing_group',
  'unicode property': 'regular_expressions.unicode_character_class_escape',
  modifier: 'regular_expressions.modifier',
  'flag y': 'builtins.RegExp.sticky',
  'flag u': 'builtins.RegExp.unicode',
  'flag s': 'builtins.RegExp.dotAll',
  'flag d': 'builtins.RegExp.hasIndices',
  'flag v': 'builtins.RegExp.unicodeSets',
};

function find(path: string): Feature | undefined {
  return path
    .split('.')
    .reduce<Feature | undefined>((feature, name) => feature?.[name] as Feature | undefined, data.javascript);
}

/**
 * The first versions of browsers that support all of some features; a browser that does not support one of them has
 * none.
 *
 * @param isPartly true if partial support is enough
 */
function firstVersions(paths: readonly string[], isPartly: boolean): [browser: string, version: string][] {
  return browsers.flatMap((browser): [string, string][] => {
    const found = paths.map((path) => {
      const compat = find(path)?.__compat;
      if (!compat) throw new Error(`the data has no ${path}`);
      const statements = statementsOf(compat, browser).filter((one) => !one.prefix && !one.alternative_name);
      return (isPartly ? statements.at(-1) : statements.find((one) => one.span[1] === null))?.span[0];
    });
    if (found.some((version) => version === undefined)) return [];
    return [[browser, (found as string[]).reduce((a, b) => (before(a, b) ? b : a))]];
  });
}

const table = (features: Readonly<Record<string, readonly string[]>>, isPartly: boolean): object =>
  Object.fromEntries(
    Object.entries(features).map(([name, paths]) => [name, Object.fromEntries(firstVersions(paths, isPartly))]),
  );
await writeTable('src/core/languages/js/syntax/levels.json', {
  levels: table(features, false),
  lasting: table(Object.fromEntries(Object.entries(lasting).map(([name, path]) => [name, [path]])), true),
});
console.log(`syntax levels: ${Object.keys(features).join(', ')}`);
