import { DiagnosticError, formatLine, Project, type Diagnostic } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { pipeline, shortened, TestProject } from './support/project.js';

/** A project with two sheets, a script, and this project file. */
function withProjectFile(yaml: string | Uint8Array, files: Record<string, string> = {}): TestProject {
  return new TestProject({
    'styles/a.css': 'a { color: red; }\n',
    'styles/b.css': 'b { color: blue; }\n',
    'scripts/a.js': 'var a = 1;\n',
    ...files,
    'anvil.yaml': yaml,
  });
}

const styles = 'from: styles/*.css\nto: site';

/** Invalid project files, with all diagnostics and their positions. */
const mistakes: Record<string, { yaml: string; said: string[]; hint?: string; files?: Record<string, string> }> = {
  'an empty file': { yaml: '', said: ['anvil.yaml:1:1: error [project-empty]'] },
  'nothing but comments': { yaml: '# later\n', said: ['anvil.yaml:1:1: error [project-empty]'] },
  'a list in place of the map': { yaml: '- styles\n', said: ['anvil.yaml:1:1: error [wrong-type]'] },
  'no pipelines': { yaml: 'browsers: defaults\n', said: ['anvil.yaml:1:1: error [missing-key]'] },
  'an empty map of pipelines': { yaml: 'pipelines: {}\n', said: ['anvil.yaml:1:12: error [missing-key]'] },
  'a tab for indentation': {
    yaml: 'pipelines:\n\tone:\n\t\tfrom: styles/*.css\n\t\tto: site\n',
    said: ['anvil.yaml:2:1: error [yaml-tab]', 'anvil.yaml:3:1: error [yaml-tab]', 'anvil.yaml:4:1: error [yaml-tab]'],
  },
  'a quote that is not closed': {
    yaml: 'pipelines:\n  one:\n    from: "styles/*.css\n    to: site\n',
    said: ['anvil.yaml:3:11: error [yaml-syntax]'],
  },
  'a list that is not closed': {
    yaml: pipeline('from: [styles/*.css\nto: site'),
    said: ['anvil.yaml:3:11: error [yaml-syntax]'],
    hint: 'Put a `]` after its last item.',
  },
  'a map that is not closed': {
    yaml: `${pipeline(styles)}serve: { folder: site\n`,
    said: ['anvil.yaml:5:8: error [yaml-syntax]'],
    hint: 'Put a `}` after its last item.',
  },
  'a comma that is missing': {
    yaml: pipeline('from: ["styles/*.css" "scripts/*.js"]\nto: site'),
    said: ['anvil.yaml:3:27: error [yaml-syntax]'],
    hint: 'Put a comma between the two.',
  },
  'a comma too many': {
    yaml: pipeline('from: [styles/*.css,, scripts/*.js]\nto: site'),
    said: ['anvil.yaml:3:25: error [yaml-syntax]'],
  },
  'backslashes in a quoted text': {
    yaml: pipeline('from: "styles\\*.css"\nto: site'),
    said: ['anvil.yaml:3:18: error [yaml-syntax]'],
    hint: 'Double the backslash, or use single quotes.',
  },
  'a text that begins with a sign of YAML': {
    yaml: pipeline('from: styles/*.css\nto: @site'),
    said: ['anvil.yaml:4:9: error [yaml-syntax]'],
    hint: 'Put the whole text in quotes.',
  },
  'an anchor without a name': {
    yaml: pipeline('from: &\nto: site'),
    said: ['anvil.yaml:3:11: error [yaml-syntax]'],
  },
  'text after a quoted text': {
    yaml: pipeline('from: "styles"/*.css\nto: site'),
    said: ['anvil.yaml:3:19: error [yaml-syntax]'],
    hint: 'Put the whole text in quotes.',
  },
  'two colons in one line': {
    yaml: pipeline('from: styles: a.css\nto: site'),
    said: ['anvil.yaml:3:11: error [yaml-syntax]'],
  },
  'a key without a colon': {
    yaml: pipeline('from\nto: site'),
    said: ['anvil.yaml:3:5: error [yaml-syntax]'],
  },
  'an item of a list without its sign': {
    yaml: pipeline('from:\n- styles/a.css\nstyles/b.css\nto: site'),
    said: ['anvil.yaml:5:5: error [yaml-syntax]'],
  },
  'lines that are not indented alike': {
    yaml: 'pipelines:\n  one:\n      from: styles/*.css\n    to: site\n',
    said: ['anvil.yaml:4:1: error [yaml-syntax]'],
  },
  'what only the parser has words for': {
    yaml: pipeline('from: &a &b styles/*.css\nto: site'),
    said: ['anvil.yaml:3:14: error [yaml-syntax]'],
    hint: 'Fix the YAML here.',
  },
  'a negation that is not quoted': {
    yaml: pipeline('from:\n  - styles/*.css\n  - !styles/b.css\nto: site'),
    said: ['anvil.yaml:5:9: error [yaml-tag]'],
    hint: 'Quote it: "!styles/b.css".',
  },
  'a key written twice': {
    yaml: pipeline(`${styles}\nto: elsewhere`),
    said: ['anvil.yaml:5:5: error [yaml-duplicate-key]'],
  },
  'two documents': {
    yaml: `${pipeline(styles)}---\n${pipeline(styles)}`,
    said: ['anvil.yaml:5:1: error [yaml-documents]'],
  },
  'a glob that YAML takes for an alias': {
    yaml: pipeline('from: *.css\nto: site'),
    said: ['anvil.yaml:3:11: error [yaml-alias-unknown]'],
  },
  'a misspelt key': {
    yaml: pipeline('form: styles/*.css\nto: site'),
    said: ['anvil.yaml:3:5: error [unknown-key]'],
    hint: 'Did you mean `from`?',
  },
  'an unknown key at the top': {
    yaml: pipeline(styles, 'piplines: {}\n'),
    said: ['anvil.yaml:1:1: error [unknown-key]'],
    hint: 'Did you mean `pipelines`?',
  },
  'a number for globs': { yaml: pipeline('from: 5\nto: site'), said: ['anvil.yaml:3:11: error [wrong-type]'] },
  'a number among globs': {
    yaml: pipeline('from: [styles/a.css, 5, "", styles/b.css]\nto: site'),
    said: ['anvil.yaml:3:26: error [wrong-type]', 'anvil.yaml:3:29: error [wrong-type]'],
  },
  'nothing but negations': {
    yaml: pipeline('from: ["!styles/a.css"]\nto: site'),
    said: ['anvil.yaml:3:11: error [only-negations]'],
  },
  'one step that is not in a list': {
    yaml: pipeline(`${styles}\nsteps: minify`),
    said: ['anvil.yaml:5:12: error [wrong-type]'],
  },
  'an unknown step': {
    yaml: pipeline(`${styles}\nsteps: [minfy]`),
    said: ['anvil.yaml:5:13: error [unknown-step]'],
    hint: 'Did you mean `minify`?',
  },
  'two names in one step': {
    yaml: pipeline(`${styles}\nsteps: [{ prefix: {}, minify: {} }]`),
    said: ['anvil.yaml:5:13: error [step-form]'],
  },
  'an option that the step does not have': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { level: 3 } }]`),
    said: ['anvil.yaml:5:25: error [unknown-key]'],
    hint: 'The keys are `renameGlobals`, `renameProperties`, `preserveNames`, `without`, `assume`, `licences`, `ascii`, `whiteSpace`, `only` and `match`.',
  },
  'a step without the option it needs': {
    yaml: pipeline(`${styles}\nsteps: [join]`),
    said: ['anvil.yaml:5:13: error [missing-key]'],
  },
  'a map in place of a text': {
    yaml: pipeline('from: styles/*.css\nto: { folder: site }'),
    said: ['anvil.yaml:4:9: error [wrong-type]'],
  },
  'an option of a wrong type': {
    yaml: pipeline(`${styles}\nsteps: [{ join: { into: [a] } }]`),
    said: ['anvil.yaml:5:29: error [wrong-type]'],
  },
  'a joined file outside of `to`': {
    yaml: pipeline(`${styles}\nsteps: [{ join: ../all.css }]`),
    said: ['anvil.yaml:5:21: error [path-outside]'],
  },
  '`only` with an unknown profile': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { only: [development, prodution] } }]`),
    said: ['anvil.yaml:5:45: error [unknown-profile]'],
    hint: 'Did you mean `production`?',
  },
  'a profile that extends an unknown one': {
    yaml: pipeline(styles, 'profiles: { staging: { extend: prod } }\n'),
    said: ['anvil.yaml:1:32: error [unknown-profile]'],
  },
  'profiles that extend each other': {
    yaml: pipeline(styles, 'profiles:\n  a: { extend: b }\n  b: { extend: a }\n'),
    said: ['anvil.yaml:3:16: error [profile-cycle]'],
  },
  'an unknown value': {
    yaml: pipeline(styles, 'profiles: { production: { maps: inlin } }\n'),
    said: ['anvil.yaml:1:33: error [unknown-value]'],
    hint: 'Did you mean `inline`?',
  },
  'a constant that is no value': {
    yaml: pipeline(styles, 'profiles: { production: { constants: { DEBUG: [1] } } }\n'),
    said: ['anvil.yaml:1:47: error [wrong-type]'],
  },
  'browsers that are not understood': {
    yaml: pipeline(styles, 'browsers: [defaults, "last 2 verions"]\n'),
    said: ['anvil.yaml:1:22: error [browsers-query]'],
  },
  'browsers that begin with what is taken away': {
    yaml: pipeline(styles, 'browsers: not dead\n'),
    said: ['anvil.yaml:1:11: error [browsers-query]'],
  },
  'browsers of a profile that leave none': {
    yaml: pipeline(styles, 'profiles: { production: { browsers: ["> 1%", "not > 0%"] } }\n'),
    said: ['anvil.yaml:1:46: error [browsers-query]'],
  },
  'two queries that are not understood': {
    yaml: pipeline(styles, 'browsers: [last verions, defaults, newest]\n'),
    said: ['anvil.yaml:1:12: error [browsers-query]', 'anvil.yaml:1:36: error [browsers-query]'],
  },
  'a constant that cannot be named so': {
    yaml: pipeline(styles, 'profiles: { production: { constants: { build-name: harbour } } }\n'),
    said: ['anvil.yaml:1:40: error [key-form]'],
  },
  'constants that are no map': {
    yaml: pipeline(styles, 'profiles: { production: { constants: [DEBUG] } }\n'),
    said: ['anvil.yaml:1:38: error [wrong-type]'],
  },
  'a host with a port': {
    yaml: `${pipeline(styles)}serve: { folder: site, hosts: [fernlight.example, "fernlight.example:80"] }\n`,
    said: ['anvil.yaml:5:51: error [wrong-type]'],
  },
  'one host that is none': {
    yaml: `${pipeline(styles)}serve: { folder: site, hosts: "fern light" }\n`,
    said: ['anvil.yaml:5:31: error [wrong-type]'],
  },
  'an empty list of hosts': {
    yaml: `${pipeline(styles)}serve: { folder: site, hosts: [] }\n`,
    said: ['anvil.yaml:5:31: error [wrong-type]'],
  },
  'a server for a path that does not begin with a slash': {
    yaml: `${pipeline(styles)}serve: { folder: site, proxy: { api: "http://127.0.0.1:8000" } }\n`,
    said: ['anvil.yaml:5:33: error [key-form]'],
  },
  'a server whose address is none': {
    yaml: `${pipeline(styles)}serve: { folder: site, proxy: { /api: "ftp://127.0.0.1/#a" } }\n`,
    said: ['anvil.yaml:5:39: error [wrong-type]'],
  },
  'servers that are no map': {
    yaml: `${pipeline(styles)}serve: { folder: site, proxy: "http://127.0.0.1:8000" }\n`,
    said: ['anvil.yaml:5:31: error [wrong-type]'],
  },
  'a size that is too small': {
    yaml: `${pipeline(styles)}store: { limit: 0.5 MB }\n`,
    said: ['anvil.yaml:5:17: error [wrong-type]'],
  },
  'words that an option does not have': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { without: [console, colours] } }]`),
    said: ['anvil.yaml:5:44: error [wrong-type]'],
  },
  'no words where some are wanted': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { without: [] } }]`),
    said: ['anvil.yaml:5:34: error [wrong-type]'],
  },
  'properties that cannot be named so': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { renameProperties: [fern, fern-light] } }]`),
    said: ['anvil.yaml:5:50: error [wrong-type]'],
  },
  'no properties where some are wanted': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: { renameProperties: {} } }]`),
    said: ['anvil.yaml:5:43: error [wrong-type]'],
  },
  'steps that are no steps': {
    yaml: pipeline(`${styles}\nsteps: [null, 5, [minify]]`),
    said: [
      'anvil.yaml:5:13: error [step-form]',
      'anvil.yaml:5:19: error [step-form]',
      'anvil.yaml:5:22: error [step-form]',
    ],
  },
  'options that are no map': {
    yaml: pipeline(`${styles}\nsteps: [{ minify: [] }, { prefix: yes }]`),
    said: ['anvil.yaml:5:23: error [wrong-type]', 'anvil.yaml:5:39: error [wrong-type]'],
  },
  'folders of partials outside of the project': {
    yaml: pipeline(`${styles}\nsteps: [{ compile: { loadPaths: [lib, ../lib] } }]`),
    said: ['anvil.yaml:5:37: error [path-outside]'],
  },
  'a port that is none': {
    yaml: `${pipeline(styles)}serve: { folder: site, port: 99999 }\n`,
    said: ['anvil.yaml:5:30: error [wrong-type]'],
  },
  'a name with a slash': {
    yaml: 'pipelines:\n  a/b:\n    from: styles/*.css\n    to: site\n',
    said: ['anvil.yaml:3:5: error [pipeline-name]'],
  },
  '`to` outside of the project': {
    yaml: pipeline('from: styles/*.css\nto: ../site'),
    said: ['anvil.yaml:4:9: error [path-outside]'],
  },
  'an absolute `to`': {
    yaml: pipeline('from: styles/*.css\nto: /srv/site'),
    said: ['anvil.yaml:4:9: error [path-form]'],
  },
  '`to` with a sign that paths cannot have': {
    yaml: 'pipelines:\n  one: { from: styles/*.css, to: \'site\\css\' }\n  two: { from: scripts/*.js, to: "site\\0" }\n',
    said: ['anvil.yaml:2:34: error [path-form]', 'anvil.yaml:3:34: error [path-form]'],
  },
  'absolute globs': {
    yaml: pipeline('from: [/srv/*.css, "C:/styles/*.css"]\nto: site'),
    said: ['anvil.yaml:3:12: error [path-form]', 'anvil.yaml:3:24: error [path-form]'],
  },
  'pipelines in place of which there is something else': {
    yaml: 'pipelines:\n  one:\n  two: [styles/*.css]\n',
    said: ['anvil.yaml:2:7: error [wrong-type]', 'anvil.yaml:3:8: error [wrong-type]'],
  },
  'a mistake behind an alias': {
    yaml: 'pipelines:\n  one: &one { form: styles/*.css, to: site }\n  two: *one\n',
    said: ['anvil.yaml:2:15: error [unknown-key]', 'anvil.yaml:2:15: error [unknown-key]'],
  },
  'a glob that leads out of the project': {
    yaml: pipeline('from: [styles/../../other/*.css]\nto: site'),
    said: ['anvil.yaml:3:12: error [path-outside]'],
  },
  'an unknown pipeline in `after`': {
    yaml: pipeline(`${styles}\nafter: [ine]`),
    said: ['anvil.yaml:5:13: error [unknown-pipeline]'],
  },
  'a pipeline after itself': {
    yaml: pipeline(`${styles}\nafter: one`),
    said: ['anvil.yaml:5:12: error [pipeline-cycle]'],
  },
  'a base that does not hold every source': {
    yaml: pipeline('from: [styles/a.css, scripts/a.js]\nto: site\nbase: styles'),
    said: ['anvil.yaml:5:11: error [base-outside]'],
  },
  'two pipelines that write one file': {
    yaml: 'pipelines:\n  one: { from: styles/a.css, to: site }\n  two: { from: styles/a.css, to: site }\n',
    said: ['anvil.yaml:3:3: error [output-conflict]'],
  },
  'two sources of one pipeline that end in one file': {
    yaml: pipeline('from: [styles/a.css, more/a.css]\nto: site'),
    said: ['anvil.yaml:2:3: error [output-conflict]'],
    files: { 'more/a.css': 'a{}' },
  },
  'an output over its own source': {
    yaml: pipeline('from: styles/*.css\nto: styles'),
    said: ['anvil.yaml:2:3: error [output-over-source]', 'anvil.yaml:2:3: error [output-over-source]'],
  },
  'an output over the source of another pipeline': {
    yaml: 'pipelines:\n  one: { from: styles/a.css, to: styles/more }\n  two: { from: styles/more/*.css, to: site }\n',
    files: { 'styles/more/a.css': 'a{}' },
    said: ['anvil.yaml:2:3: error [output-over-source]'],
  },
  'a circle through `after`': {
    yaml: 'pipelines:\n  one: { from: styles/a.css, to: x, after: two }\n  two: { from: styles/b.css, to: y, after: one }\n',
    said: ['anvil.yaml:2:3: error [pipeline-cycle]'],
  },
  'a circle through data': {
    yaml: 'pipelines:\n  one: { from: [styles/a.css, y/b.css], to: x }\n  two: { from: [styles/b.css, x/a.css], to: y }\n',
    said: ['anvil.yaml:2:3: error [pipeline-cycle]'],
  },
};

/** Opens a project and plans it; returns its errors. */
async function mistakesOf(project: TestProject): Promise<readonly Diagnostic[]> {
  try {
    await (await Project.open({ folder: project.root })).plan();
    return [];
  } catch (error) {
    if (error instanceof DiagnosticError) return error.diagnostics;
    throw error;
  }
}

describe('errors in the project file', () => {
  it.each(Object.entries(mistakes))('%s', async (_, { yaml, said, hint, files }) => {
    const found = await mistakesOf(withProjectFile(yaml, files));
    expect(found.map((one) => shortened(formatLine(one)))).toEqual(said);
    for (const one of found)
      expect([one.message, one.hint, one.frame?.lines].every((part) => part !== undefined && part.length > 0)).toBe(
        true,
      );
    if (hint !== undefined) expect(found.map((one) => one.hint)).toContain(hint);
  });

  it('end the program with exit code 2, before anything is written', async () => {
    for (const { yaml, said } of [
      mistakes['a misspelt key']!,
      mistakes['two pipelines that write one file']!,
      mistakes['an empty file']!,
    ]) {
      const project = withProjectFile(yaml);
      expect(await project.diagnose()).toMatchObject({ code: 2, said });
      expect(project.exists('site')).toBe(false);
    }
  });

  it('are reported all at once, in the order of the file', async () => {
    const project = withProjectFile(`browsers: last 2 verions
profiles:
  staging: { extend: prodution, map: file }
pipelines:
  styles:
    form: styles/*.scss
    steps: [compile, prefx, { minify: { only: productoin } }]
    to: ../site
  scripts:
    from: 5
    to: site
    after: [style]
`);
    expect((await project.diagnose()).said).toEqual([
      'anvil.yaml:1:11: error [browsers-query]',
      'anvil.yaml:3:22: error [unknown-profile]',
      'anvil.yaml:3:33: error [unknown-key]',
      'anvil.yaml:6:5: error [unknown-key]',
      'anvil.yaml:7:22: error [unknown-step]',
      'anvil.yaml:7:47: error [unknown-profile]',
      'anvil.yaml:8:9: error [path-outside]',
      'anvil.yaml:10:11: error [wrong-type]',
      'anvil.yaml:12:13: error [unknown-pipeline]',
    ]);
  });

  it('are shown with the line of code, a marker, and a hint', async () => {
    const { stderr } = await withProjectFile(pipeline('form: styles/*.css\nto: site')).run(['build']);
    expect(stderr).toContain(
      [
        'error  anvil.yaml:3:5  [unknown-key]',
        '  `form` is not a key of the pipeline `one`.',
        '',
        '    1  pipelines:',
        '    2    one:',
        '  ▌ 3      form: styles/*.css',
        '  ▌        ‾‾‾‾',
        '    4      to: site',
        '',
        '  → Did you mean `from`?',
      ].join('\n'),
    );
  });

  it('cannot exhaust the memory by aliases', async () => {
    const levels = [...'bcdefghi'].map(
      (name, at) => `${name}: &${name} [${Array(9).fill(`*${'abcdefghi'[at]!}`).join(', ')}]`,
    );
    const project = withProjectFile(`a: &a [x, x, x, x, x, x, x, x, x]\n${levels.join('\n')}\n${pipeline(styles)}`);
    const run = await project.diagnose();
    expect(run.code).toBe(2);
    expect(run.said).toEqual([expect.stringMatching(/^anvil\.yaml:\d+:\d+: error \[yaml-alias-bomb\]$/)]);
  });

  it('do not include a few aliases', async () => {
    const project = withProjectFile(
      'pipelines:\n  one: &one { from: styles/a.css, to: &to site, steps: &steps [minify] }\n  two: { from: styles/b.css, to: *to, steps: *steps }\n',
    );
    await project.build();
    expect(project.read('site/b.css')).toBe('b{color:blue}');
  });

  it('are reported by byte if it is not text', async () => {
    const project = withProjectFile(Buffer.from([0x70, 0x69, 0x70, 0x0a, 0x65, 0xff, 0x0a]));
    expect(await project.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:2:2: error [not-utf8]'] });
  });
});

describe('finding the project file', () => {
  it('searches the ancestor folders', async () => {
    const project = withProjectFile(pipeline(styles));
    const run = await project.run(['build'], { folder: 'styles' });
    expect(run.code).toBe(0);
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
  });

  it('lists the searched folders if there is none', async () => {
    const project = new TestProject({ 'a/b.css': '' });
    expect(await project.diagnose(['build'], { folder: 'a' })).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [project-missing]'],
      stderr: expect.stringContaining(project.path('a')) as string,
    });
  });

  it('uses the file of --config', async () => {
    const project = withProjectFile(pipeline('from: nothing.css\nto: site'), { 'other.yaml': pipeline(styles) });
    expect((await project.run(['build', '--config', 'other.yaml'])).code).toBe(0);
    expect(project.exists('site/a.css')).toBe(true);
    expect(await project.diagnose(['build', '--config', 'missing.yaml'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [project-unreadable]'],
    });
  });
});

describe('invalid values', () => {
  it.each([
    ['', 'nothing'],
    ['""', 'an empty text'],
    ['[]', 'an empty list'],
    ['[a]', 'a list'],
    ['5.5', 'the number 5.5'],
    ['true', '`true`'],
    ['styles', 'the text "styles"'],
    [`${'long '.repeat(20)}`, 'the text "long long long long long long long long …"'],
  ])('are named: %s', async (value, named) => {
    const [found] = await mistakesOf(withProjectFile(`pipelines: ${value}\n`));
    expect(found!.message).toBe(
      value === ''
        ? 'The project file has no `pipelines`.'
        : `\`pipelines\` takes a map from names to pipelines, not ${named}.`,
    );
  });
});

describe('globs without matches', () => {
  const emptyGlob = async (from: string): Promise<string> => {
    const project = withProjectFile(pipeline(`from: [styles/a.css, ${from}]\nto: site`));
    const run = await project.run(['build']);
    expect(run.code).toBe(0);
    expect(run.stderr).toContain('warning  anvil.yaml:3:26');
    expect(run.stderr).toContain(`\`${from}\` in the pipeline \`one\` matches no files.`);
    return run.stderr;
  };

  it('cause a warning with the nearest folder', async () => {
    expect(await emptyGlob('stlyes/*.css')).toContain('`stlyes` does not exist. Did you mean `styles`?');
  });

  it('cause a warning with the nearest file', async () => {
    expect(await emptyGlob('scripts/b.jsx')).toContain('`scripts/b.jsx` does not exist.');
  });

  it('cause a warning if their special characters were meant literally', async () => {
    const project = withProjectFile(pipeline('from: [scripts/a.js, "pages/(old) x/*.html"]\nto: site'), {
      'pages/(old) x/[a].html': '<p>',
    });
    expect((await project.run(['build'])).stderr).toContain(
      "pages/(old) x exists; to match it literally, write 'pages/\\(old\\) x' in single quotes.",
    );
    for (const from of ["'pages/\\(old\\) x/*.html'", "['pages/\\(old\\) x/\\[a\\].html', '!pages/\\(*\\)/b.html']"]) {
      project.write('anvil.yaml', pipeline(`from: ${from}\nto: site`));
      expect(await project.diagnose()).toMatchObject({ code: 0, said: [] });
      expect(project.files('site')).toEqual(['site/[a].html']);
    }
  });

  it('cause a warning if they name a folder', async () => {
    expect(await emptyGlob('scripts')).toContain('scripts is a folder; to match the files in it, write scripts/**/*.');
  });

  it('cause a warning if the folder contains other files', async () => {
    expect(await emptyGlob('scripts/*.ts')).toContain('The folder scripts exists, but no file in it matches');
  });

  it('cause a warning in `match`, with the inputs of the step', async () => {
    const yaml = pipeline('from: styles/*\nto: site\nsteps: [compile, { minify: { match: "*.scss" } }, prefix]');
    const project = withProjectFile(yaml, { 'styles/c.scss': 'c { d: e }\n', 'styles/d.css': '' });
    for (const state of ['first', 'nothing to do'])
      expect(await project.diagnose(), state).toMatchObject({
        code: 0,
        said: ['anvil.yaml:5:41: warning [match-empty]'],
        stderr: expect.stringContaining('`*.scss` matches none of the assets of `minify`') as string,
      });
    expect((await project.run(['build', '--dry-run'])).stderr).toContain('a.css, b.css, c.css and 1 more');
    project.write('anvil.yaml', yaml.replace('minify: { match', 'minify: { only: development, match'));
    expect((await project.diagnose()).said).toEqual([]);
  });
});
