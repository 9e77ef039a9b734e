import { execFileSync } from 'node:child_process';
import { symlinkSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { describe, expect, it } from 'vitest';
import { program } from './support/program.js';
import { TestProject } from './support/project.js';

const clone = join(dirname(program), '../..');

/** Installed packages that work in browsers: ES modules, CommonJS, both, and with maps of either. */
const packages = [
  '@jridgewell/gen-mapping',
  '@jridgewell/trace-mapping',
  'acorn',
  'ajv',
  'class-validator',
  'css-tree',
  'entities',
  'fast-check',
  'fastest-levenshtein',
  'parse5',
  'pbf',
  'picocolors',
  'picomatch',
  'yaml',
];

const fileOf = (name: string): string => `${name.replace(/\W/g, '-')}.js`;

/** Prints what the linked packages export, and what Node.js imports: names, types, and the results of some calls. */
const inspection = `
const calls = {
  acorn: ({ parse }) => parse('class A { #b = 1; static { a?.b } }', { ecmaVersion: 'latest' }),
  ajv: ({ default: { default: Ajv } }) => new Ajv().compile({ type: 'object', required: ['moon'] })({}),
  'css-tree': ({ parse, generate }) => generate(parse('@media print { a:not(.b) { c: d( 1px ) } }')),
  entities: ({ decodeHTML }) => decodeHTML('&eacute;&notit;&#x1F319;'),
  'fastest-levenshtein': ({ distance }) => distance('lantern', 'lunar'),
  parse5: ({ parse, serialize }) => serialize(parse('<p>1<table><i>2<svg><a xlink:href=b>')),
  picomatch: ({ default: picomatch }) => picomatch('**/*.{a,b}')('c/d.b'),
  yaml: ({ stringify, parse }) => stringify(parse('a: &b [1, { c: null }]\\nd: *b\\n')),
};
const found = [];
for (const [name, file] of Object.entries(JSON.parse(process.argv[2]))) {
  const theirs = await import(name);
  // Browsers get the ES modules of packages that Node.js gets CommonJS modules of.
  const isCompiled = (key) => '__esModule' in theirs && /^(default|__esModule)$/.test(key);
  const namesIn = (all) => Object.keys(all).filter((key) => !isCompiled(key)).sort();
  const look = (all) => [namesIn(all).map((key) => key + ' ' + typeof all[key]), calls[name]?.(all)];
  found.push([name, look((await import(file)).all), look(theirs)]);
}
process.stdout.write(JSON.stringify(found));
`;

describe('linking installed packages', () => {
  it.each(['production', 'development'])('exports what Node.js imports from them, for %s', async (profile) => {
    const project = new TestProject({
      'package.json': '{ "type": "module" }',
      'inspect.js': inspection,
      'anvil.yaml':
        'pipelines: { packages: { from: src/*.js, to: out, steps: [link, { minify: { only: production } }] } }\n',
    });
    symlinkSync(join(clone, 'node_modules'), project.path('node_modules'));
    for (const name of packages) project.write(`src/${fileOf(name)}`, `export * as all from '${name}';\n`);
    const { stderr } = await project.build('--profile', profile);
    expect(stderr).not.toContain('error');
    const files = Object.fromEntries(packages.map((name) => [name, `./out/${fileOf(name)}`]));
    const output = execFileSync(process.execPath, ['inspect.js', JSON.stringify(files)], { cwd: project.root });
    const found = JSON.parse(output.toString()) as [name: string, ours: unknown, theirs: unknown][];
    for (const [name, ours, theirs] of found) expect(ours, name).toEqual(theirs);
    expect(found).toHaveLength(packages.length);
  });
});
