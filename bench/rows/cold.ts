import { cpSync, mkdirSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { program } from '../../test/support/program.js';
import { copyDemo } from '../../test/support/demo.js';
import { clone, type Corpus } from '../corpus.js';
import { canPin, inTurns, ratiosOf, runProcess, type Row } from '../measure.js';

const bare = join(clone, 'build/bench/bare.js');

/**
 * Cold builds that only compile, relative to the compilers alone on the same files. The bars apply to heavy projects,
 * which keep the compilers busy for seconds; for small ones the start of the program dominates, and is reported. On two
 * cores, the bar applies to the gain of the second one, so that the compilers alone get one, and to projects of more
 * than one file; their time on two cores is reported, since they use much of the second one themselves: for garbage
 * collection, just-in-time compilation, and Sass for sheets.
 */
export async function* cold(corpus: Corpus): AsyncGenerator<Row> {
  const projects = [
    demoProject(),
    typedProject(200),
    typedProject(1000),
    sheetsProject(60),
    sheetsProject(240),
    ...corpus.sass.map((one) => sassProject(one, corpus)),
  ];
  for (const { name, root, sources, isHeavy } of projects) {
    const files = sources.map((path) => join(root, path));
    const loadPath = join(root, 'src');
    const fresh = (): void => {
      for (const folder of ['site', 'bare', '.anvil-cache'])
        rmSync(join(root, folder), { recursive: true, force: true });
    };
    const build = (cores?: string) => (): void => {
      fresh();
      runProcess([program, 'build', '--quiet', '--profile', 'bench'], { folder: root, ...(cores && { cores }) });
    };
    const alone = (cores?: string) => (): void =>
      runProcess([bare, join(root, 'bare'), loadPath, ...files], { folder: root, ...(cores && { cores }) });
    const rounds = isHeavy ? 3 : 7;
    const row = async (what: string, ours: () => void, reference: () => void, more: Partial<Row>): Promise<Row> => {
      const times = await inTurns(rounds, ours, reference);
      return { what: `cold build, ${name}${what}`, reference: 'the compilers alone', ...ratiosOf(times), ...more };
    };
    if (canPin()) {
      const [one, two] = ['0', '0,1'];
      yield await row(', one core', build(one), alone(one), isHeavy ? { bar: 1.15 } : {});
      const ofTwo = { reference: 'the compilers alone with one core' };
      yield await row(
        ', two cores',
        build(two),
        alone(one),
        isHeavy && sources.length > 1 ? { ...ofTwo, bar: 0.75 } : ofTwo,
      );
      yield await row(', two cores', build(two), alone(two), { reference: 'the compilers alone with two cores' });
    } else yield await row('', build(), alone(), {});
    rmSync(root, { recursive: true });
  }
}

interface ColdProject {
  readonly name: string;
  readonly root: string;
  readonly sources: readonly string[];
  /** True if the compilers alone take seconds. */
  readonly isHeavy: boolean;
}

function demoProject(): ColdProject {
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  copyDemo(clone, root);
  const sources = (readdirSync(root, { recursive: true }) as string[]).filter(
    (path) =>
      /^(scripts|styles)\/.*\.(scss|ts)$/.test(path) && !basename(path).startsWith('_') && !path.endsWith('.draft.ts'),
  );
  writeProjectFile(
    root,
    'styles: { from: styles/*.scss, to: site, steps: [compile] }\n  scripts: { from: [scripts/*.ts, "!scripts/*.draft.ts"], to: site, steps: [compile, link] }',
  );
  return { name: 'the demo', root, sources, isHeavy: false };
}

/** Sheets that share a theme, always the same: what a site of many parts has to do. */
function sheetsProject(number: number): ColdProject {
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  mkdirSync(join(root, 'src'));
  writeFileSync(
    join(root, 'src/_theme.scss'),
    `@use 'sass:color';
@use 'sass:math';
$steps: 12;
@function shade($base, $step) { @return color.mix($base, #fff, math.percentage(math.div($step, $steps))); }
@mixin scale($name, $base) {
  @for $step from 1 through $steps {
    .#{$name}-#{$step} { color: shade($base, $step); &:hover { color: color.adjust(shade($base, $step), $lightness: -5%); } }
    @media (min-width: #{$step * 10}em) { .#{$name}-wide-#{$step} { padding: math.div($step, 3) * 1rem; } }
  }
}
`,
  );
  const sources = Array.from({ length: number }, (_, at) => `src/part${String(at)}.scss`);
  for (const [number, path] of sources.entries()) {
    const scales = Array.from(
      { length: 6 },
      (_, at) =>
        `@include theme.scale(p${String(number)}-${String(at)}, hsl(${String((number * 7 + at * 40) % 360)}deg 60% 40%));`,
    );
    writeFileSync(join(root, path), `@use 'theme';\n${scales.join('\n')}\n`);
  }
  writeProjectFile(root, 'styles: { from: src/*.scss, to: site, steps: [compile] }');
  return { name: `${String(number)} Sass sheets`, root, sources, isHeavy: number > 100 };
}

/** Modules of a given size, always the same. */
function typedProject(modules: number): ColdProject {
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  const module = (number: number): string =>
    Array.from(
      { length: 12 },
      (_, at) =>
        `export interface Shape${String(at)} { readonly id: number; readonly name?: string }\nexport function measure${String(at)}(shape: Shape${String(at)}, scale: number = ${String(number)}): string {\n  const size = shape.id * scale + (shape.name?.length ?? 0);\n  return \`\${size}: \${shape.name ?? 'nobody'}\`;\n}\n`,
    ).join('\n');
  mkdirSync(join(root, 'src'));
  const sources = Array.from({ length: modules }, (_, number) => `src/module${String(number)}.ts`);
  sources.forEach((path, number) => writeFileSync(join(root, path), module(number)));
  writeProjectFile(root, 'scripts: { from: src/*.ts, to: site, steps: [compile] }');
  return { name: `${String(modules)} TypeScript modules`, root, sources, isHeavy: modules > 500 };
}

function sassProject(one: Corpus['sass'][number], corpus: Corpus): ColdProject {
  const root = mkdtempSync(join(tmpdir(), 'anvil-bench-'));
  const entry = corpus.path({ package: one.package, source: one.entry });
  cpSync(dirname(entry), join(root, 'src'), { recursive: true, dereference: true });
  writeProjectFile(root, `styles: { from: src/${basename(entry)}, to: site, steps: [compile] }`);
  return { name: `${one.package}’s Sass`, root, sources: [`src/${basename(entry)}`], isHeavy: one.package === 'bulma' };
}

function writeProjectFile(root: string, pipelines: string): void {
  writeFileSync(
    join(root, 'anvil.yaml'),
    `browsers: chrome 120\nprofiles: { bench: { maps: none } }\npipelines:\n  ${pipelines}\n`,
  );
}
