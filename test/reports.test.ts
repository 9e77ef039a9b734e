import { rmSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

const numbers = Array.from({ length: 25 }, (_, at) => String(at + 1).padStart(2, '0'));

/** Many sheets that use one partial, a script, and copies of the compiled sheets. */
function many(): TestProject {
  const sheets = numbers.map((at) => [`src/s${at}.scss`, `@use "part";\n.a${at} { color: part.$c }\n`]);
  return new TestProject({
    ...(Object.fromEntries(sheets) as Record<string, string>),
    'lib/_part.scss': '$c: red;\n',
    'app.js': 'let x = DEBUG;\n',
    'anvil.yaml': `profiles: { production: { browsers: [chrome 130, safari 17.4], constants: { DEBUG: false } } }
pipelines:
  sheets:
    from: src/*.scss
    to: site
    steps: [{ compile: { loadPaths: lib } }, minify]
  app: { from: app.js, to: site, steps: [minify] }
  copies: { from: site/*.css, to: copies }
`,
  });
}

const lines = (text: string): string[] => text.split('\n').map((line) => line.trimEnd());

describe('many outputs', () => {
  it('are reported by the first few, or all with --verbose, in a stable order', async () => {
    const project = many();
    const first = lines((await project.run(['build', '--dry-run'])).stdout);
    expect(first[0]).toBe(
      'A build for production would run 26 jobs, and up to 25 more that depend on their results. Nothing was written.',
    );
    expect(first).toContain('        run         compile s01.scss  because it is new');
    expect(first).toContain('                    and 20 more (--verbose lists them)');
    expect(first).toContain('copies  25 sources, copied');
    expect(project.files('site')).toEqual([]);
    await project.build();
    const reach = lines((await project.run(['why', 'lib/_part.scss'])).stdout);
    expect(reach.slice(0, 4)).toEqual([
      'lib/_part.scss affects 50 outputs for production',
      '',
      '  site/s01.css  sheets, read by compile',
      '  site/s02.css  sheets, read by compile',
    ]);
    expect(reach.at(-2)).toBe('  and 30 more (--verbose lists them)');
    const all = lines((await project.run(['why', 'lib/_part.scss', '--verbose'])).stdout);
    expect(all.slice(2, -1)).toEqual([
      ...numbers.map((at) => `  site/s${at}.css    sheets, read by compile`),
      ...numbers.map((at) => `  copies/s${at}.css  copies, through site/s${at}.css`),
    ]);
    expect(lines((await project.run(['list'])).stdout)).toContainEqual(expect.stringMatching(/and 2\d more/));
    expect((await project.run(['list', '--verbose'])).stdout).not.toMatch(/and \d+ more/);
    expect((await project.run(['build', '--dry-run'])).stdout).toContain('has nothing to do: all 51 jobs up to date.');
  });

  it('are each explained with settings, options, and missing files that would be read', async () => {
    const project = many();
    await project.build();
    const why = async (...args: string[]): Promise<string[]> => lines((await project.run(['why', ...args])).stdout);
    expect(await why('site/app.js')).toEqual([
      'site/app.js, 8 B, built by app for production',
      '',
      '  from        app.js',
      '  minify      reads no other files',
      '  settings    2 target browsers; process.env.NODE_ENV = "production"; DEBUG = false; maps: none',
      '  last built  in the last build, because it was new',
      '  now         up to date',
      '',
    ]);
    const sheet = await why('site/s01.css');
    expect(sheet).toContain('  compile     loadPaths: "lib"');
    expect(sheet).toContain('              15 other locations searched; a file added there triggers a rebuild');
    const verbose = await why('site/s01.css', '--verbose');
    expect(verbose).toContain('              src/part/_index.scss  does not exist');
    expect(verbose).toContain(
      '  settings    chrome 130, safari 17.4; process.env.NODE_ENV = "production"; DEBUG = false; maps: none',
    );
    expect(await why('copies/s01.css')).toContain('  from        site/s01.css  written by sheets');

    project.write('src/_part.scss', '$c: blue;\n');
    expect(await why('site/s01.css')).toContain('              src/_part.scss  does not exist  added');
    expect(await why('site/s01.css')).toContain('  now         out of date: 1 file changed since the last build');
    expect((await project.run(['build', '--dry-run'])).stdout).toContain('because src/_part.scss changed');
    rmSync(project.path('src/_part.scss'));
    rmSync(project.path('site/s01.css'));
    expect(await why('site/s01.css')).toContain('  now         missing: the next build writes it again');
    project.write('app.js', 'let x = !DEBUG;\n');
    expect((await why('app.js'))[0]).toBe(
      'app.js affects 1 output for production; it has changed since the last build',
    );
    expect(await project.run(['why', 'far/away/from/here/s07.scss'])).toMatchObject({
      code: 2,
      stderr: expect.stringContaining('Did you mean `src/s07.scss`?') as string,
    });
  });

  it('are summarized if many of them change or will be removed', async () => {
    const project = many();
    await project.build();
    const parts = ['a', 'b', 'c', 'd', 'e'];
    project.write('src/s01.scss', `${parts.map((name) => `@use "${name}";\n`).join('')}.a01 { color: a.$c }\n`);
    for (const name of parts) project.write(`lib/_${name}.scss`, '$c: red;\n');
    await project.build();
    for (const name of parts) project.write(`lib/_${name}.scss`, '$c: teal;\n');
    rmSync(project.path('src/s03.scss'));
    const forecast = lines((await project.run(['build', '--dry-run'])).stdout);
    expect(forecast).toContainEqual(
      expect.stringMatching(
        /compile s01\.scss {2}because lib\/_a\.scss, lib\/_b\.scss, lib\/_c\.scss and 2 more changed$/,
      ),
    );
    expect(forecast).toContain('        remove      site/s03.css');
    await project.build();
    expect(lines((await project.run(['why', 'site/s01.css'])).stdout)).toContain(
      '  last built  in the last build, because lib/_a.scss, lib/_b.scss, lib/_c.scss and 2 more changed',
    );
    project.write('anvil.yaml', project.read('anvil.yaml').replace('DEBUG: false', 'DEBUG: true'));
    expect((await project.run(['build', '--dry-run'])).stdout).toContain(
      'run         minify app.js  because its settings or the tool versions changed',
    );
  });
});

describe('a plan', () => {
  it('shows the inputs of each step, and the dependencies of each pipeline', async () => {
    const project = new TestProject({
      'a.css': 'a { b: c }\n',
      'b.js': 'b();\n',
      'anvil.yaml': `${pipeline('from: ["*.css", "*.js"]\nto: site\nsteps: [{ minify: { match: "*.css" } }, { join: { into: all.css, match: "*.css" } }]')}  two: { from: site/*.css, to: two, after: three }\n  three: { from: b.js, to: three }\n`,
    });
    const { stdout } = await project.run(['list']);
    expect(stdout).toContain('minify (*.css)');
    expect(stdout).toContain('join all.css (*.css)');
    expect(stdout).toContain('one, which writes site/all.css');
    expect(stdout).toContain('three (by `after`)');
  });
});
