import { Random } from './random.js';

/** Names of few kinds, so that modules declare the same ones. */
const names = ['dome', 'lens', 'Object', 'Map', 'exports', 'module', 'require', 'a', 'default_1', '_'];

/**
 * A random graph of modules: cycles, live bindings, namespaces, `export *`, default exports of all kinds, CommonJS, JSON,
 * `import()` and top-level `await`. Each module logs what it sees by `globalThis.log`; `m0.mjs` is the entry point.
 *
 * @param seed the same seed makes the same graph
 * @param hasAwait whether modules may wait for something at the top level
 * @returns the texts by file name
 */
export function randomModules(seed: number, hasAwait: boolean): Record<string, string> {
  const random = new Random(seed);
  const kinds = Array.from({ length: random.between(2, random.chance(0.2) ? 16 : 9) }, (_, at) =>
    at === 0 ? 'mjs' : random.pick(['mjs', 'mjs', 'mjs', 'cjs', 'json']),
  );
  const graph = kinds.map((kind, at): Node => {
    const isEmpty = kind === 'json' || random.chance(kind === 'cjs' ? 0.25 : 0.1);
    return {
      id: `m${String(at)}`,
      kind,
      names: isEmpty ? [] : some(random, kind === 'cjs' ? ['a', 'lens'] : names),
      hasDefault: kind !== 'mjs' || random.chance(0.6),
      passed: new Map(),
    };
  });
  const modules = graph.filter(({ kind }) => kind === 'mjs');
  // Names that are passed on through several modules, in cycles as well.
  for (let count = random.between(0, 2 * modules.length); count > 0; count--) {
    const [from, by] = [random.pick(graph), random.pick(modules)];
    const name = random.pick([...from.names, ...from.passed.keys()].concat(from.hasDefault ? 'default' : []));
    const exported = random.chance(0.5) ? `${by.id}_${String(count)}` : `p${String(count)}`;
    if (name !== undefined && from !== by && !by.passed.has(exported)) by.passed.set(exported, { from, name });
  }
  return Object.fromEntries(
    graph.map((node) => {
      const { id, kind } = node;
      const data = (): string => JSON.stringify({ [id]: 1, ['__proto__']: [id] });
      const text =
        kind === 'json'
          ? data()
          : kind === 'cjs'
            ? commonJs(random, node, graph)
            : esModule(random, node, graph, hasAwait);
      return [`${id}.${kind}`, text];
    }),
  );
}

/** A module of a graph. */
interface Node {
  readonly id: string;
  readonly kind: string;
  /** The names that it exports. */
  readonly names: readonly string[];
  readonly hasDefault: boolean;
  /** Names of other modules that it exports. */
  readonly passed: Map<string, { readonly from: Node; readonly name: string }>;
}

/** What a specifier is followed by. */
const attributesOf = ({ kind }: Node): string => (kind === 'json' ? " with { type: 'json' }" : '');

const fileOf = ({ id, kind }: Node): string => `./${id}.${kind}`;

const logOf = (id: string, what: string, value: string): string =>
  `log('${id} ${what}', (() => { try { return String(${value}) } catch (error) { return error.name } })())`;

const keysOf = (name: string): string => `Object.keys(${name}).filter((key) => key !== 'module.exports')`;

function esModule(random: Random, node: Node, graph: readonly Node[], hasAwait: boolean): string {
  const { id, names, hasDefault, passed } = node;
  const requests = Array.from({ length: random.between(0, 3) }, (_, at) =>
    request(random, `x${String(at)}`, id, graph),
  );
  const seen = requests.flatMap((one) => one.seen);
  const lines = requests.map(({ line }) => line);
  for (const [exported, { from, name }] of passed)
    lines.push(`export { ${name} as ${exported} } from '${fileOf(from)}'${attributesOf(from)}`);
  lines.push(logOf(id, 'begins', 'typeof this'), ...seen.map((one) => logOf(id, 'sees', one)));
  for (const one of seen) if (random.chance(0.4)) lines.push(logOf(id, 'sees inside', within(random, one)));
  for (const name of names) lines.push(declaration(random, name, id, seen));
  if (hasDefault) lines.push(random.pick(defaults(id)));
  if (hasAwait && random.chance(0.2)) lines.push('await null', logOf(id, 'waited', '1'));
  if (random.chance(0.3)) {
    const other = random.pick(graph);
    const options = other.kind === 'json' ? ", { with: { type: 'json' } }" : '';
    const loaded = `(all) => log('${id} loaded', ${keysOf('all')}), (error) => log('${id} failed', error.name)`;
    lines.push(`lazy(() => import('${fileOf(other)}'${options}).then(${loaded}))`);
  }
  lines.push(...seen.map((one) => `later(() => ${logOf(id, 'sees later', one)})`), logOf(id, 'ends', '1'));
  // It may have no value yet, so that the module fails.
  if (seen.length > 0 && random.chance(0.3)) lines.push(`log('${id} needs', ${random.pick(seen)})`);
  return lines.join(random.pick(['\n', ';\n']));
}

/** An import or export from another module, and expressions that show what it means. */
function request(random: Random, local: string, id: string, graph: readonly Node[]): { line: string; seen: string[] } {
  const other = random.pick(graph);
  const isModule = other.kind === 'mjs';
  const from = `'${fileOf(other)}'${attributesOf(other)}`;
  const form = random.between(0, 5);
  if (form === 0 && other.hasDefault)
    return { line: `import ${local} from ${from}`, seen: [`typeof ${local} + ${local}?.name`] };
  if (form === 1)
    return { line: `import * as ${local} from ${from}`, seen: [keysOf(local), `Object.isSealed(${local})`] };
  if (form === 2 && other.kind !== 'json') return { line: `export * from ${from}`, seen: [] };
  const name = random.pick([...other.names, ...other.passed.keys()]);
  if (name === undefined) return { line: `import ${from}`, seen: [] };
  if (form === 3) return { line: `export { ${name} as ${local}_${id} } from ${from}`, seen: [] };
  const value = `typeof ${local} === 'function' ? ${local}.name : ${local}`;
  const assignment = `(() => { ${local} = 1 })()`;
  return { line: `import { ${name} as ${local} } from ${from}`, seen: isModule ? [value, assignment] : [value] };
}

function commonJs(random: Random, { id, names }: Node, graph: readonly Node[]): string {
  const lines = [`log('${id} begins', typeof exports + (this === module.exports))`];
  const other = random.pick(graph);
  if (other.kind !== 'mjs') lines.push(`log('${id} got', JSON.stringify(require('${fileOf(other)}')))`);
  for (const name of names)
    lines.push(random.pick([`exports.${name} = '${name} ${id}'`, `module.exports.${name} = () => 1`]));
  lines.push(`log('${id} is sloppy', (function () { return typeof this })())`, `leaked_${id} = 1`);
  return lines.join(';\n');
}

/** An expression in a scope that declares a name which other modules have as well. */
function within(random: Random, value: string): string {
  const name = random.pick(['dome', 'lens', 'a', 'default_1', '_', 'm1', 'x9']);
  return random.pick([
    `(() => { const ${name} = 1; return [${value}, ${name}] })()`,
    `(function ${name}() { return [${value}, typeof ${name}] })()`,
    `((${name}) => [${value}, ${name}])(1)`,
    `(({ ${name} = ${value} }) => ${name})({})`,
    `(() => { try { throw 1 } catch (${name}) { return [${value}, ${name}] } })()`,
    `new (class ${name} { get() { return [${value}, typeof ${name}] } })().get()`,
    `(() => { for (const ${name} of [1]) return [${value}, ${name}] })()`,
    `(() => { ${name}: for (;;) { break ${name} } return ${value} })()`,
    `(() => { if (true) { function ${name}() { return 2 } } return [${value}, ${name}()] })()`,
    `(() => { switch (1) { case 1: let ${name} = 3; return [${value}, ${name}] } })()`,
    `(() => { var { ${name}, ...rest } = { ${name}: 4, b: ${value} }; return [rest.b, ${name}] })()`,
    `({ ${name}: ${value} }).${name}`,
    `((value = ${value}, ${name} = 5) => [value, ${name}])()`,
    `(function () { return [${value}, arguments.length, this] })(${value})`,
  ]);
}

const declaration = (random: Random, name: string, id: string, seen: readonly string[]): string =>
  random.pick([
    `export let ${name} = '${name} ${id}'; later(() => { ${name} += '!' })`,
    `export function ${name}() { return typeof ${name} }`,
    `export class ${name} { static own = typeof ${name}${seen[0] === undefined ? '' : `; static { ${logOf(id, 'sees in a class', seen[0])} }`} }`,
    `const inner_${name} = () => 1; export { inner_${name} as ${name} }`,
    `export var ${name} = () => ${name}`,
    `export const { ${name} } = { ${name}: '${id}' }`,
  ]);

const defaults = (id: string): string[] => [
  'export default function () { return 1 }',
  'export default class { static own = this.name }',
  'export default (() => 1)',
  `export default '${id}'`,
  `export default function named_${id}() { named_${id} = 0; return typeof named_${id} }`,
  `let inner_${id} = 1; export { inner_${id} as default }; later(() => { inner_${id} = 2 })`,
];

const some = (random: Random, all: readonly string[]): string[] => [
  ...new Set(Array.from({ length: random.between(1, 3) }, () => random.pick(all))),
];

/**
 * The same graph in TypeScript, with types that leave nothing behind. It needs `verbatimModuleSyntax`.
 */
export const typedModules = (files: Readonly<Record<string, string>>): Record<string, string> =>
  Object.fromEntries(
    Object.entries(files).map(([name, text]) =>
      name.endsWith('.mjs')
        ? [
            name.replace('.mjs', '.ts'),
            `import type { Odd as Same } from './m0.ts';\n${text.replaceAll(".mjs'", ".ts'")}\n;export interface Odd { a: Same }\nexport type { Odd as Even };\n`,
          ]
        : [name, text.replaceAll(".mjs'", ".ts'")],
    ),
  );

/** A module after an edit, most often one that changes neither its imports and exports nor its top-level names. */
export function editedModule(random: Random, text: string, edit: number): string {
  const lines = text.split('\n');
  const imported = random.pick(
    [...text.matchAll(/^import (?:\* as |\{ \w+ as )?(\w+)/gm)].map(([, name]) => name!).concat('Map'),
  );
  const name = random.pick([
    ...names,
    'x0',
    'm1',
    'm0_default',
    'dome_1',
    'lens_1',
    '__1',
    'm2_namespace',
    'make_namespace',
  ]);
  const added = random.pick([
    `log('edit ${String(edit)}')`,
    `log('edit', typeof ${name})`,
    `later(() => { const ${name} = ${String(edit)}; log('edit', ${name}) })`,
    `later(() => log(${within(random, String(edit))}))`,
    `later(() => log(typeof ${imported}))`,
    `later(() => log(typeof ${imported}.${name}, typeof ${imported}.a.lens))`,
    `later(() => ${imported}.${name}())`,
    `later(() => { ${imported} = 1 })`,
    `later(() => { ${random.pick([...text.matchAll(/^export (?:let|var) (\w+)/gm)].map(([, own]) => own!).concat('leaked'))} = 2 })`,
    `lazy(() => import('./m0.mjs').then(({ ${name} }) => log(${name}), () => 0))`,
    `const edit_${String(edit)} = 1`,
    `let ${name} = 1`,
    `export { Map as edited } from './m0.mjs'`,
    `import './m1.cjs'`,
  ]);
  lines.splice(random.between(0, lines.length), random.chance(0.2) ? 1 : 0, `;${added};`);
  return random.chance(0.2) ? lines.filter((line) => !line.includes('edit')).join('\n') : lines.join('\n');
}
