// Makes docs/project-file.md and the demo's schema from what the built program says of its own project file, and
// docs/diagnostics.md, docs/minify.md and docs/prefix.md from what it makes of examples.
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { diagnosticsPage } from './diagnostics-page.js';
import { minifyPage, prefixPage } from './style-pages.js';

interface Schema {
  readonly description?: string;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly type?: string | readonly string[];
  readonly enum?: readonly string[];
  readonly oneOf?: readonly Schema[];
  readonly $ref?: string;
  readonly items?: Schema;
  readonly $defs?: Readonly<Record<string, Schema>>;
}

const program = new URL('../../dist/cli/bin.js', import.meta.url).pathname;
const text = execFileSync(process.execPath, [program, 'schema'], { encoding: 'utf8' });
const schema = JSON.parse(text) as Schema;
const parts = schema.$defs ?? {};

/** The kind of value that a key takes, in words. */
function kindOf(one: Schema): string {
  if (one.$ref) return `see [${one.$ref.split('/').at(-1)!}](#${one.$ref.split('/').at(-1)!})`;
  if (one.enum) return one.enum.map((word) => `\`${word}\``).join(', ');
  if (one.oneOf) return [...new Set(one.oneOf.map(kindOf))].join(' or ');
  if (one.type === 'array')
    return one.items && !one.items.oneOf && !one.items.$ref ? `list of ${kindOf(one.items)}s` : 'list';
  return (
    { string: 'text', boolean: 'true or false', integer: 'number', object: 'map' }[String(one.type)] ?? String(one.type)
  );
}

function table(one: Schema, leaveOut: readonly string[] = []): string {
  const rows = Object.entries(one.properties ?? {}).flatMap(([key, value]) => {
    if (leaveOut.includes(key)) return [];
    const required = one.required?.includes(key) ? ' (required)' : '';
    return [
      `| \`${key}\`${required} | ${kindOf(value).replaceAll('|', '\\|')} | ${(value.description ?? '').replaceAll('|', '\\|')} |`,
    ];
  });
  return rows.length === 0
    ? 'It has no options of its own.'
    : ['| key | value | what it says |', '|---|---|---|', ...rows].join('\n');
}

const common = ['only', 'match'];
const steps = (parts['step']?.oneOf ?? []).flatMap((one) =>
  Object.entries(one.properties ?? {}).map(([name, form]) => ({
    name,
    doc: one.description ?? '',
    options: form.oneOf?.[0] ?? {},
    short: form.oneOf?.[1],
  })),
);
const both = steps[0]!.options;

const page = `# The project file

This page is made by \`npm run docs\` from the classes that validate the file. How the parts play together is told in [Pipelines](pipelines.md).

## At the top

${table(schema)}

## profile

An entry of \`profiles\`, by name.

${table(parts['profile']!)}

## pipeline

An entry of \`pipelines\`, by name.

${table(parts['pipeline']!)}

## serve

${table(parts['serve']!)}

## store

${table(parts['store']!)}

## Steps

Every step takes these:

${table({ properties: Object.fromEntries(Object.entries(both.properties ?? {}).filter(([key]) => common.includes(key))) })}

${steps.map(({ name, doc, options, short }) => `### ${name}\n\n${doc}${short?.type === 'string' ? ` Short form: \`${name}: ${Object.keys(options.properties ?? {})[0]!.toUpperCase()}\`.` : ''}\n\n${table(options, common)}`).join('\n\n')}
`;

const out = process.argv[2] ?? 'docs';
writeFileSync(`${out}/project-file.md`, page);
writeFileSync(`${out}/minify.md`, minifyPage());
writeFileSync(`${out}/prefix.md`, prefixPage());
writeFileSync(`${out}/diagnostics.md`, await diagnosticsPage());
if (process.argv[2] === undefined) writeFileSync('demo/anvil.schema.json', text);
