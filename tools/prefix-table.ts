// Makes src/core/styles/prefix/table.ts from the browser compatibility data: for each name that some browser knew only
// under another spelling, the versions in which it did.
import { writeFileSync } from 'node:fs';
import {
  before,
  browsers,
  data,
  partsOf,
  statementsOf,
  type Compat,
  type Span,
  type Statement,
} from './compatibility.js';

type Needs = Record<string, Record<string, Span[]>>;

/** For each other spelling of a feature, the browsers and versions that know it and not the standard one. */
function needsOf(compat: Compat, spell: (statement: Statement) => string | undefined): Needs {
  const needs: Needs = {};
  for (const browser of browsers) {
    const statements = statementsOf(compat, browser);
    const standard = statements.filter((one) => !one.prefix && !one.alternative_name).map((one) => one.span);
    for (const statement of statements) {
      const spelling = statement.prefix || statement.alternative_name ? spell(statement) : undefined;
      if (spelling === undefined) continue;
      const left = standard.reduce((spans, known) => spans.flatMap((span) => without(span, known)), [statement.span]);
      if (left.length > 0) ((needs[spelling] ??= {})[browser] ??= []).push(...left);
    }
  }
  return needs;
}

/** A span of versions without another one. */
function without([from, to]: Span, [knownFrom, knownTo]: Span): Span[] {
  const parts: Span[] = [];
  if (before(from, knownFrom)) parts.push([from, to === null || before(knownFrom, to) ? knownFrom : to]);
  if (knownTo !== null && (to === null || before(knownTo, to)))
    parts.push([before(from, knownTo) ? knownTo : from, to]);
  return parts;
}

const vendored = (name: string | undefined): string | undefined =>
  name?.startsWith('-') && !name.startsWith('-khtml-') ? name : undefined;
const spellWord = (word: string) => (statement: Statement) =>
  vendored(statement.alternative_name ?? `${statement.prefix!}${word}`);
const isWord = (name: string): boolean => /^[a-z][a-z0-9-]*$/.test(name);

const properties: Record<string, Needs> = {};
const values: Record<string, Record<string, Needs>> = {};
for (const [property, feature] of Object.entries(data.css.properties)) {
  if (!isWord(property)) continue;
  if (feature.__compat) keep(properties, property, needsOf(feature.__compat, spellWord(property)));
  for (const [value, one] of partsOf(feature)) {
    if (!isWord(value) || !one.__compat) continue;
    const needs = needsOf(one.__compat, spellWord(value));
    if (Object.keys(needs).length > 0) (values[property] ??= {})[value] = needs;
  }
}

const atRules: Record<string, Needs> = {};
for (const [name, feature] of Object.entries(data.css['at-rules'])) {
  if (feature.__compat) keep(atRules, name, needsOf(feature.__compat, spellWord(name)));
}

const selectors: Record<string, Needs> = {};
for (const [name, feature] of Object.entries(data.css.selectors)) {
  const spelled = /<code>(::?[a-z-]+)<\/code>/.exec(feature.__compat?.description ?? '')?.[1];
  if (!feature.__compat || spelled === undefined || spelled.replace(/^::?/, '') !== name) continue;
  const colons = spelled.startsWith('::') ? '::' : ':';
  const spell = (statement: Statement): string | undefined => {
    const other = statement.alternative_name ?? `${colons}${statement.prefix!}${name}`;
    return /^::?-(?!khtml-)[a-z-]+$/.test(other) ? other : undefined;
  };
  keep(selectors, spelled, needsOf(feature.__compat, spell));
}

function keep(table: Record<string, Needs>, name: string, needs: Needs): void {
  if (Object.keys(needs).length > 0) table[name] = needs;
}

const table = { data: data.__meta.version, properties, values, atRules, selectors };
const text = `// Made by \`npm run tables\` from the browser compatibility data; do not edit.
import type { PrefixTable } from './needs.js';

// As text, since a large literal is slower to load than JSON.
export const prefixTable = JSON.parse(
  ${JSON.stringify(JSON.stringify(table)).replace(/^"|"$/g, "'").replaceAll('\\"', '"')},
) as PrefixTable;
`;
writeFileSync('src/core/styles/prefix/table.ts', text);
console.log(
  `prefix table: ${String(Object.keys(properties).length)} properties, ${String(Object.keys(selectors).length)} selectors, ${String(text.length)} bytes`,
);
