// Makes src/core/languages/css/support/table.json from the browser compatibility data: the first version of each
// browser that
// supports a property, keyword, selector, unit, function or syntax without a prefix.
import { browsers, data, partsOf, statementsOf, type Compat, type Feature } from './compatibility.js';
import { writeTable } from './table.js';

/** Syntax without a name in style sheets, by its name in the table. */
const notations: Readonly<Record<string, string>> = {
  'hexadecimal-alpha': 'types.color.rgb_hexadecimal_notation.alpha_hexadecimal_notation',
  'alpha-in-rgb': 'types.color.rgb.alpha_parameter',
  'space-separated-rgb': 'types.color.rgb.space_separated_parameters',
  'alpha-in-hsl': 'types.color.hsl.alpha_parameter',
  'custom-properties': 'properties.custom-property',
  'two-overflows': 'properties.overflow.multiple_keywords',
  'color-in-text-decoration': 'properties.text-decoration.includes_color-and-style',
  'thickness-in-text-decoration': 'properties.text-decoration.includes_thickness',
  'two-position-stops': 'types.gradient.linear-gradient.doubleposition',
};

const versions: string[] = [];
const indexOf = new Map<string, number>();

/** Finds the first versions that support a feature without a prefix and still do; `-` for none. */
function entry(compat: Compat): number {
  const text = browsers
    .map((browser) => {
      const [first] = statementsOf(compat, browser).filter(
        (one) => one.span[1] === null && !one.prefix && !one.alternative_name && !one.partial_implementation,
      );
      return first ? first.span[0] : '-';
    })
    .join(' ');
  let index = indexOf.get(text);
  if (index === undefined) {
    index = versions.push(text) - 1;
    indexOf.set(text, index);
  }
  return index;
}

type Entries = Record<string, number>;

function add(entries: Entries, name: string, compat: Compat | undefined): void {
  if (compat && /^:{0,2}[a-z-][a-z0-9-]*$/i.test(name)) entries[name.toLowerCase()] = entry(compat);
}

const properties: Entries = {};
const keywords: Record<string, Entries> = {};
for (const [property, feature] of Object.entries(data.css.properties)) {
  add(properties, property, feature.__compat);
  const own: Entries = {};
  for (const [name, part] of partsOf(feature)) add(own, name, part.__compat);
  if (Object.keys(own).length > 0) keywords[property] = own;
}

const selectors: Entries = {};
for (const [name, feature] of Object.entries(data.css.selectors)) {
  const spelled = /<code>(::?[a-z-]+)(\(\))?<\/code>/.exec(feature.__compat?.description ?? '')?.[1];
  if (spelled?.replace(/^::?/, '') === name) add(selectors, spelled, feature.__compat);
}

const units: Entries = {};
const functions: Entries = {};
for (const [name, feature] of Object.entries(data.css.types)) {
  for (const [part, { __compat }] of partsOf(feature)) {
    if (/^(length|angle|time|resolution|flex)$/.test(name)) add(units, part, __compat);
    else add(functions, part, __compat);
  }
  add(functions, name, feature.__compat);
}
const types = data.css.types as Readonly<Record<string, Feature>>;
const viewport = (types['length']!['vw'] as Feature).__compat!;
for (const unit of ['vw', 'vh']) units[unit] = entry(viewport);

const ways: Entries = {};
for (const [name, path] of Object.entries(notations)) {
  const feature = path
    .split('.')
    .reduce<Feature | undefined>((one, part) => one?.[part] as Feature | undefined, data.css as unknown as Feature);
  if (!feature?.__compat) throw new Error(`the data has no ${path}`);
  ways[name] = entry(feature.__compat);
}

const table = {
  data: data.__meta.version,
  browsers,
  versions,
  property: properties,
  keyword: keywords,
  selector: selectors,
  unit: units,
  function: functions,
  notation: ways,
};
const size = await writeTable('src/core/languages/css/support/table.json', table);
console.log(`style support: ${String(versions.length)} sets of versions, ${String(size)} bytes`);
