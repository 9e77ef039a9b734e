import { mkdirSync, mkdtempSync, rmSync, symlinkSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { Watch } from '../../test/support/watch.js';
import { clone } from '../corpus.js';
import { ratiosOf, type Row } from '../measure.js';

const modules = 1000;
const rounds = 3;

/** Measures checks of types by TypeScript 7 in sessions, beside TypeScript 6: the first one, and those after a save. */
export async function checks(): Promise<Row[]> {
  const times = new Map<string, { ours: number[]; reference: number[] }>();
  for (let round = 0; round < rounds; round++)
    for (const [side, compiler] of [
      ['ours', 'typescript-native'],
      ['reference', 'typescript'],
    ] as const)
      for (const [what, time] of await sessionTimes(compiler)) {
        if (!times.has(what)) times.set(what, { ours: [], reference: [] });
        times.get(what)![side].push(time);
      }
  return [...times].map(([what, both]) => ({
    what: `\`check: types\` of ${String(modules)} modules by TypeScript 7: ${what}`,
    reference: 'TypeScript 6',
    ...ratiosOf(both),
  }));
}

/** The milliseconds of the checks of a session. */
async function sessionTimes(compiler: string): Promise<[what: string, time: number][]> {
  const root = mkdtempSync(join(tmpdir(), 'bench-'));
  const write = (path: string, text: string): void => {
    mkdirSync(dirname(join(root, path)), { recursive: true });
    writeFileSync(join(root, path), text);
  };
  write('anvil.yaml', 'pipelines: { types: { from: src/*.ts, steps: [check: types] } }\n');
  write('tsconfig.json', JSON.stringify({ compilerOptions, include: ['src'] }));
  for (let at = 0; at < modules; at++) write(pathOf(at), textOf(at));
  mkdirSync(join(root, 'node_modules'));
  symlinkSync(join(clone, 'node_modules', compiler), join(root, 'node_modules/typescript'));
  const started = Date.now();
  const watch = await Watch.start({ root });
  const found: [string, number][] = [['the first one', Date.now() - started]];
  const save = async (what: string, at: number, more: string): Promise<void> => {
    const before = Date.now();
    await watch.round(() => write(pathOf(at), textOf(at) + more));
    found.push([what, Date.now() - before]);
  };
  await save('after a save of a module that no other imports', modules - 1, 'export const north = 1;\n');
  await save('after a save of a module that all others depend on', 0, 'export interface North { own: number }\n');
  await watch.end();
  rmSync(root, { recursive: true });
  return found;
}

const compilerOptions = {
  strict: true,
  noEmit: true,
  module: 'nodenext',
  target: 'es2022',
  types: [],
  skipLibCheck: true,
};

const pathOf = (at: number): string => `src/star-${String(at)}.ts`;

/** A module with functions and types of three others. */
function textOf(at: number): string {
  const name = String(at);
  const others = [1, 8, 15]
    .map((step) => at - step)
    .filter((one) => one >= 0)
    .map(String);
  const imports = others.map((one) => `import { type Star${one}, star${one} } from './star-${one}.js';\n`).join('');
  const fields = others.map((one) => `near${one}?: Star${one};`).join(' ');
  const calls = others.map((one) => `star${one}({ rank: 1 });`).join(' ');
  const exported = Array.from(
    { length: 20 },
    (_, index) =>
      `export const sorted${name}_${String(index)} = (all: Record<string, Star${name}>) => Object.entries(all).map(([key, one]) => ({ key, ...one, count: one.names.length + ${String(index)} }));\n`,
  );
  return `${imports}export interface Star${name} { rank: number; names: string[]; ${fields} }
export function star${name}(from: Partial<Star${name}>): Star${name} { ${calls} return { rank: from.rank ?? ${name}, names: (from.names ?? []).filter((one) => one !== '') }; }
${exported.join('')}`;
}
