import { parse } from 'acorn';
import { execFileSync } from 'node:child_process';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';
import { randomProgram, runProgram, sayTheSame } from './support/random-program.js';

/** Joins files in the given order; returns the result. */
async function joined(
  into: string,
  files: Record<string, string>,
  options = '',
): Promise<{ text: string; project: TestProject }> {
  const names = Object.keys(files).map((name) => JSON.stringify(`src/${name}`));
  const project = new TestProject({
    ...Object.fromEntries(Object.entries(files).map(([name, text]) => [`src/${name}`, text])),
    'anvil.yaml': pipeline(
      `from: [${names.join(', ')}]\nbase: src\nto: site\nsteps: [{ join: { into: ${into}${options} } }]`,
    ),
  });
  const run = await project.run(['build']);
  return { text: project.exists(`site/${into}`) ? project.read(`site/${into}`) : run.stderr, project };
}

/** The output of a classic script in Node.js. */
const output = (script: string): string =>
  execFileSync(process.execPath, ['--input-type=commonjs', '-'], {
    input: script.replace(/^#!.*/, ''),
    encoding: 'utf8',
  });

/** The top-level names that a script declares with `let`, `const` and `class`. */
const lexicalNames = (text: string): string[] =>
  parse(text, { ecmaVersion: 'latest' }).body.flatMap((node) => {
    if (node.type === 'ClassDeclaration') return [node.id.name];
    if (node.type !== 'VariableDeclaration' || node.kind === 'var') return [];
    return node.declarations.flatMap(({ id }) => (id.type === 'Identifier' ? [id.name] : []));
  });

describe('joining scripts', () => {
  it('keeps the behaviour of each, regardless of how the previous one ends', async () => {
    const { text } = await joined('all.js', {
      'a.js': 'var log = function (x) { console.log(x); return log }\nvar f = function () { return 1 }',
      'b.js': '(function () { log("called") })() // and a comment',
      'c.js': '[1].forEach(log) /* and another',
      'd.js': '`x`;log("template")',
      'e.js': '+log("plus")\n--> an old comment',
      'f.js': 'if (log) log("if")\n//# sourceMappingURL=f.js.map\n',
      'g.js': '/x/.test("x") && log("regular")',
    }).then(({ text: failed, project }) => {
      // A script with an unclosed comment is invalid: the comment is closed here.
      expect(failed).toContain('src/c.js:1:18');
      project.write('src/c.js', '[1].forEach((x) => log(x)) /* and another */');
      return project.build().then(() => ({ text: project.read('site/all.js') }));
    });
    expect(output(text)).toBe('called\n1\ntemplate\nplus\nif\nregular\n');
    expect(text).not.toContain('sourceMappingURL');
  });

  it('limits "use strict" to its own script', async () => {
    const { text, project } = await joined('all.js', {
      'a.js': '"use strict";\n(function () { console.log("a", this === undefined) })()\n',
      'b.js': 'undeclared = 1; console.log("b", typeof undeclared, (function () { return this !== undefined })())\n',
      'c.js': "'use strict'\ntry { alsoUndeclared = 1 } catch { console.log('c', 'strict') }\n",
    });
    expect(output(text)).toBe('a true\nb number true\nc strict\n');
    expect((await project.diagnose()).said).toEqual([]);
  });

  it('keeps the behaviour of random scripts', async () => {
    const pieces = ['"use strict";', '// only a comment', '', 'let v1 = 1;', 'if (false) { var item = 2 }'];
    const pairs = Array.from({ length: 700 }, (_, at) => [
      `${pieces[at % 7] ?? ''}${randomProgram(2 * at + 1)}`,
      `${pieces[at % 6] ?? ''}${at % 5 === 0 ? '' : randomProgram(2 * at + 2)}`,
    ])
      .filter((pair) => !runProgram(pair).includes('ends with'))
      // Uses in callbacks and methods are not reported: nothing tells when they run.
      .filter(([first, second]) => lexicalNames(second!).every((name) => !first!.includes(name)));
    const project = new TestProject({
      ...Object.fromEntries(
        pairs.flatMap((pair, at) => pair.map((text, index) => [`src/${String(at)}-${String(index)}.js`, text])),
      ),
      'anvil.yaml': `pipelines:\n${pairs
        .map(
          (_, at) =>
            `  p${String(at)}: { from: [src/${String(at)}-0.js, src/${String(at)}-1.js], to: site, steps: [{ join: ${String(at)}.js }] }\n`,
        )
        .join('')}`,
    });
    const { said } = await project.diagnose();
    let compared = 0;
    for (const [at, pair] of pairs.entries()) {
      if (said.some((one) => one.startsWith(`src/${String(at)}-`))) continue;
      compared++;
      const joined = project.read(`site/${String(at)}.js`);
      if (!sayTheSame(pair, joined)) expect(runProgram([joined]), `pair ${String(at)}`).toBe(runProgram(pair));
    }
    expect(compared).toBeGreaterThan(30);
  });

  it('keeps "use strict" if all are strict, and omits it with a warning if names are shared', async () => {
    const all = await joined('all.js', {
      'a.js': '"use strict";\nvar a = 1;\n',
      'b.js': '"use strict";\nvar b = a;\n',
    });
    expect(all.text).toBe('"use strict";\nvar a = 1;\n"use strict";\nvar b = a;\n');
    const mixed = await joined('all.js', {
      'a.js': '"use strict";\nvar a = 1;\n',
      'b.js': 'undeclared = a; console.log(undeclared);\n',
    });
    expect((await mixed.project.diagnose()).said).toEqual(['src/a.js:1:1: warning [join-strict]']);
    expect(output(mixed.text)).toBe('1\n');
  });

  it('warns of names used at load time before a later file declares them', async () => {
    const { project } = await joined('all.js', {
      'a.js':
        'function later() { return [x, y, z] }\nfunction now() { typeof x }\n{ let y; y = now() }\nclass A { static z = z }\n(function () { z.y })()\n',
      'b.js': 'var x2 = 1\n',
      'c.js': 'let x, y; class z {}\n',
    });
    expect((await project.diagnose()).said).toEqual([
      'src/a.js:2:25: warning [join-order]',
      'src/a.js:4:22: warning [join-order]',
    ]);
  });

  it('keeps one hashbang at the beginning, and puts the banner after it', async () => {
    const { text } = await joined(
      'all.js',
      { 'a.js': '#!/usr/bin/env node\na()\n', 'b.js': '#!/usr/bin/env other\nb()\n' },
      ', banner: "Fern */ light"',
    );
    expect(text).toBe('#!/usr/bin/env node\n/*! Fern * / light */\na();\nb();\n');
  });

  it('rejects modules and duplicate declarations', async () => {
    const { project } = await joined('all.js', {
      'a.js': 'const x = 1, { y: [z] } = {};\nvar free;\n',
      'b.js': 'var free;\nlet z;\nimport a from "a";\n',
      'c.js': 'class x {}\nfunction free() {}\n',
    });
    expect(await project.diagnose()).toMatchObject({
      code: 1,
      said: [
        'src/b.js:3:1: error [join-module]',
        'src/b.js:2:5: error [join-twice]',
        'src/c.js:1:7: error [join-twice]',
      ],
    });
  });
});

describe('joining style sheets', () => {
  it('keeps one @charset and valid imports, for any order of sheets', async () => {
    const { text } = await joined('all.css', {
      'a.css':
        '\ufeff@charset "utf-8";\n@import "x.css";\na { b: "c" }\n@import "too-late.css";\n/*# sourceMappingURL=a.css.map */\n',
      'b.css':
        '@CHARSET "utf-8";\n@layer one, two;\n@import url(y.css) layer(one) screen;\n@namespace svg url(http://example.test/svg);\nsvg|a { d: "ü" }',
      'c.css': '@layer three;\ne { f: g }\n',
    });
    expect(text).toBe(
      '@charset "UTF-8";\n@layer one, two;\n@import "x.css";\n@import url(y.css) layer(one) screen;\n@namespace svg url(http://example.test/svg);\n' +
        'a { b: "c" }\n@import "too-late.css";\nsvg|a { d: "ü" }\n@layer three;\ne { f: g }\n',
    );
  });

  it('rejects a sheet that is not closed', async () => {
    for (const [sheet, place] of Object.entries({
      'a { b: c': '1:3',
      'a{} /* open': '1:5',
      'a { b: "open }': '1:8',
      'a{} }': '1:5',
      'a { b: url(x "y) }': '1:8',
    })) {
      const { project } = await joined('all.css', { 'a.css': sheet, 'b.css': 'b{}' });
      expect(await project.diagnose(), sheet).toMatchObject({
        code: 1,
        said: [`src/a.css:${place}: error [style-syntax]`],
      });
    }
  });

  it('rebases relative URLs', async () => {
    const { text } = await joined('css/all.css', {
      'css/a.css': 'a { b: url(x.png) }\n',
      'css/deep/b.css':
        '@import "c.css";\na { b: url("../x.png?1#2") url(/y.png) url(data:,z) url(#w) url(https://example.test/v) ; c: "../x.png" }\n',
    });
    expect(text).toBe(
      '@import "deep/c.css";\na { b: url(x.png) }\na { b: url("x.png?1#2") url(/y.png) url(data:,z) url(#w) url(https://example.test/v) ; c: "../x.png" }\n',
    );
  });

  it('rejects files of different kinds', async () => {
    const mixed = await joined('all.js', { 'a.js': 'a()', 'b.css': 'b{}' });
    expect((await mixed.project.diagnose()).said).toEqual(['src/b.css: error [join-kinds]']);
    const wrong = await joined('all.css', { 'a.js': 'a()' });
    expect((await wrong.project.diagnose()).said).toEqual(['src/a.js: error [join-kinds]']);
    const other = await joined('all.js', { 'a.txt': 'a' });
    expect((await other.project.diagnose()).said).toEqual(['src/a.txt: error [join-unknown]']);
  });
});
