import { spawnSync } from 'node:child_process';
import { eachMapping, originalPositionFor, TraceMap, type EncodedSourceMap } from '@jridgewell/trace-mapping';
import { minifyScript, minifyStyle, prefixStyle } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

/** The original position of the first occurrence of a text: source, and line and column from 1. */
function trace(text: string, map: EncodedSourceMap, needle: string): string {
  const offset = text.indexOf(needle);
  if (offset < 0) throw new Error(`${needle} is not in ${text}`);
  const before = text.slice(0, offset).split('\n');
  const found = originalPositionFor(new TraceMap(map), { line: before.length, column: before.at(-1)!.length });
  return `${String(found.source)}:${String(found.line)}:${String((found.column ?? -2) + 1)}`;
}

/** Compares pairs of texts, one in the output and one in a source. */
function expectMapped(
  project: TestProject,
  output: string,
  pairs: readonly (readonly [needle: string, source: string, original?: string])[],
): void {
  const text = project.read(output);
  const map = JSON.parse(project.read(`${output}.map`)) as EncodedSourceMap;
  for (const [needle, source, original = needle] of pairs) {
    const content = project.read(source);
    const before = content.slice(0, content.indexOf(original)).split('\n');
    const folder = output
      .split('/')
      .slice(0, -1)
      .map(() => '..')
      .join('/');
    expect(trace(text, map, needle), needle).toBe(
      `${folder}/${source}:${String(before.length)}:${String(before.at(-1)!.length + 1)}`,
    );
  }
  map.sources.forEach((source, index) =>
    expect(map.sourcesContent?.[index]).toBe(project.read(source!.replace(/^(\.\.\/)+/, ''))),
  );
}

const everything = 'from: [src/a.scss, src/b.css]\nto: site/css\nsteps: [compile, { join: all.css }, prefix, minify]';

describe('source maps', () => {
  it('have the names of the sources through compile, link and minify, and the places of calls', async () => {
    const project = new TestProject({
      'src/@lens/main.ts':
        'import cover, { Object as Thing, open as unlock } from "./dome";\nimport * as all from "./dome";\nenum Phase { New = 1 }\nexport function run(input?: { deep?: { value: number } }): unknown {\n  const { deep: { value = 2 } = {}, ...others } = input ?? {};\n  return [input?.deep?.value ?? cover, Thing, Phase[value], others, Object.keys(all)];\n}\nconst unused = run;\nunlock(unused);\n\nfunction lone(text: string): never {\n  const copy = text + text;\n  throw new Error(copy + copy);\n}\n\nlone(String(run({})));\n',
      'src/@lens/dome.ts':
        'export class Object { static own = 1; }\nexport default globalThis.document?.title ?? "none";\nexport const open = async (task: () => unknown): Promise<void> => { for await (const one of [task()]) { void one; } };\n',
      'anvil.yaml': pipeline(
        'from: src/@lens/main.ts\nto: site\nsteps: [compile, link, minify]',
        'browsers: chrome 60\nprofiles: { production: { maps: file } }\n',
      ),
    });
    await project.build();
    const map = JSON.parse(project.read('site/main.js.map')) as EncodedSourceMap;
    expect(map.sources).toContain('../src/@lens/main.ts');
    const named: string[] = [];
    eachMapping(new TraceMap(map), ({ name, source, originalLine, originalColumn }) => {
      if (name === null || source === null) return;
      named.push(name);
      const line = project.read(source.replace('../', '')).split('\n')[originalLine! - 1]!;
      expect(line.slice(originalColumn!).match(/^[\w$]+/)?.[0], `${source}:${String(originalLine)}`).toBe(name);
    });
    expect(named).toEqual(expect.arrayContaining(['cover', 'input', 'Thing', 'run', 'open', 'text', 'copy']));
    project.write('package.json', '{ "type": "module" }');
    const { stderr } = spawnSync(process.execPath, ['--enable-source-maps', project.path('site/main.js')], {
      encoding: 'utf8',
    });
    expect(stderr).toContain('main.ts:13:');
    expect(stderr).toContain('main.ts:16:1)');
  });

  it('map a compiled, joined, prefixed and minified sheet to the source files', async () => {
    const project = new TestProject({
      'src/a.scss': '@use "part";\n\n.outer {\n  color: part.$ink;\n  .inner { user-select: none; width: 10px }\n}\n',
      'src/_part.scss': '$ink: #abcdef;\n\n.partial { margin: 0.5px; }\n',
      'src/b.css':
        '@import "x.css";\n/* plain */\n  .plain,\n  .other::placeholder { padding: 1px 1px 1px 1px; hyphens: auto }\n',
      'anvil.yaml': pipeline(everything, 'browsers: safari 15, firefox 50\nprofiles: { production: { maps: file } }\n'),
    });
    await project.build();
    expect(project.read('site/css/all.css')).toMatch(/\n\/\*# sourceMappingURL=all\.css\.map \*\/\n$/);
    expectMapped(project, 'site/css/all.css', [
      ['.partial', 'src/_part.scss'],
      ['margin', 'src/_part.scss'],
      ['1px', 'src/b.css', '1px 1px'],
      ['.outer', 'src/a.scss'],
      ['color', 'src/a.scss'],
      ['.outer .inner', 'src/a.scss', '.inner'],
      ['-webkit-user-select', 'src/a.scss', 'user-select'],
      ['-moz-user-select', 'src/a.scss', 'user-select'],
      ['@import', 'src/b.css'],
      ['.plain', 'src/b.css'],
      ['.other::-moz-placeholder', 'src/b.css', '.other'],
      ['padding', 'src/b.css'],
      ['-webkit-hyphens', 'src/b.css', 'hyphens'],
    ]);
  });

  it('map compiled, joined and minified scripts to the source files', async () => {
    const project = new TestProject({
      'src/a.ts':
        'interface Gone { a: 1 }\n\nfunction greet(name: string): string {\n  return `Hello ${name}` as string;\n}\n',
      'src/b.js': '// plain\nvar   plain = greet ( "you" ) // no semicolon',
      'src/c.jsx': '(function () { return <p id="x">{plain ?? 1}</p> })()\n',
      'tsconfig.json': '{ "compilerOptions": { "jsx": "react", "jsxFactory": "h" } }',
      'anvil.yaml': pipeline(
        'from: [src/a.ts, src/b.js, src/c.jsx]\nto: site/js\nsteps: [compile, { join: all.js }, minify]',
        'browsers: chrome 60\nprofiles: { production: { maps: file, constants: { NONE: 1 } } }\n',
      ),
    });
    await project.build();
    expect(project.read('site/js/all.js')).toMatch(/\n\/\/# sourceMappingURL=all\.js\.map\n$/);
    expectMapped(project, 'site/js/all.js', [
      ['greet(n)', 'src/a.ts', 'greet(name'],
      ['n){', 'src/a.ts', 'name: string'],
      ['return`', 'src/a.ts', 'return `'],
      ['plain=', 'src/b.js', 'plain ='],
      ['greet("you")', 'src/b.js', 'greet ('],
      ['"you"', 'src/b.js'],
      ['"x"', 'src/c.jsx'],
      ['plain&&', 'src/c.jsx', 'plain ??'],
    ]);
  });

  it('are published as the profile configures', async () => {
    const project = new TestProject({
      'src/a b.css': 'a { b: c }\n',
      'anvil.yaml': pipeline(
        'from: src/*.css\nto: site\nsteps: [minify]',
        'profiles: { inline: { maps: inline }, none: { maps: none } }\n',
      ),
    });
    await project.build('--profile', 'development');
    expect(project.read('site/a b.css')).toBe('a{b:c}\n/*# sourceMappingURL=a%20b.css.map */\n');
    expect(JSON.parse(project.read('site/a b.css.map'))).toMatchObject({
      version: 3,
      file: 'a b.css',
      sources: ['../src/a%20b.css'],
      sourcesContent: ['a { b: c }\n'],
    });
    await project.build('--profile', 'inline');
    const inline = /base64,(\S+) \*\/\n$/.exec(project.read('site/a b.css'))![1]!;
    expect(JSON.parse(Buffer.from(inline, 'base64').toString())).toMatchObject({ sources: ['../src/a%20b.css'] });
    await project.build('--profile', 'none');
    expect(project.read('site/a b.css')).toBe('a{b:c}');
    expect(project.files('site')).toEqual(['site/a b.css']);
  });

  it('locate diagnostics of later steps in the source files, also if no maps are published', async () => {
    const project = new TestProject({
      'src/a.css': 'a { b: c }\n',
      'src/c.css': '\n\n.x { d: e; }\n@media print { .w:::v { d: e } }\n',
      'anvil.yaml': pipeline('from: src/*.css\nto: site\nsteps: [compile, { join: all.css }, minify]'),
    });
    expect((await project.diagnose()).said).toEqual(['src/c.css:4:16: warning [style-skipped]']);
    expect(project.files('site')).toEqual(['site/all.css']);
  });

  it('are returned by the pure functions on request', () => {
    const script = minifyScript('let  alpha = 1;\n\nbeta ( alpha )\n', { map: true, file: 'x.js' });
    expect(trace(script.text, script.map!, 'beta')).toBe('x.js:3:1');
    expect(trace(script.text, script.map!, 'alpha)')).toBe('x.js:3:8');
    const style = minifyStyle('a { b: c }\n\n  d { e: 0.5px }\n', { map: true, file: 'x.css' });
    expect(trace(style.text, style.map!, '.5px')).toBe('x.css:3:10');
    const prefixed = prefixStyle('a { b: c;\n  user-select: none }', {
      map: true,
      browsers: 'safari 17',
      file: 'y.css',
    });
    expect(trace(prefixed.text, prefixed.map!, '-webkit')).toBe('y.css:2:3');
    expect(trace(prefixed.text, prefixed.map!, 'b: c')).toBe('y.css:1:5');
    expect(minifyStyle('a{}').map).toBeUndefined();
  });
});
