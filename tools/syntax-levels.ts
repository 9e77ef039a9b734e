// Makes src/core/scripts/syntax/levels.ts from the browser compatibility data: for each year of the language, the first
// version of each browser that knows all syntax of that year which a compiler can express in older syntax.
import { writeFileSync } from 'node:fs';
import { before, browsers, data, statementsOf, type Feature } from './compatibility.js';

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

function find(path: string): Feature | undefined {
  return path
    .split('.')
    .reduce<Feature | undefined>((feature, name) => feature?.[name] as Feature | undefined, data.javascript);
}

const levels: Record<string, Record<string, string>> = {};
for (const [year, paths] of Object.entries(features)) {
  for (const path of paths) {
    const compat = find(path)?.__compat;
    if (!compat) throw new Error(`the data has no ${path}`);
    for (const browser of browsers) {
      const [first] = statementsOf(compat, browser).filter(
        (one) => one.span[1] === null && !one.prefix && !one.alternative_name,
      );
      const known = (levels[year] ??= {})[browser];
      // A year without an entry for a browser is one that it never knew in full.
      if (!first) levels[year][browser] = 'never';
      else if (known === undefined || (known !== 'never' && before(known, first.span[0])))
        levels[year][browser] = first.span[0];
    }
  }
}

const rows = Object.entries(levels).map(([year, versions]) => {
  const entries = Object.entries(versions).filter(([, version]) => version !== 'never');
  return `  ${year}: { ${entries.map(([browser, version]) => `${browser}: '${version}'`).join(', ')} },`;
});
writeFileSync(
  'src/core/scripts/syntax/levels.ts',
  `// Made by \`npm run tables\` from the browser compatibility data ${data.__meta.version}; do not edit.

/** For each year of the language, the first version of each browser that knows its syntax in full. */
export const syntaxLevels: Readonly<Record<number, Readonly<Record<string, string>>>> = {
${rows.join('\n')}
};
`,
);
console.log(`syntax levels: ${Object.keys(levels).join(', ')}`);
