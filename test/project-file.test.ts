import { DiagnosticError, formatLine, Project, type Diagnostic } from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { pipeline, shortened, TestProject } from './support/project.js';

/** A project with two sheets and a script, and this project file. */
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

/** Mistakes of the project file: what is written, and every diagnostic that it gets, with its place. */
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
    yaml: pipeline('from: [styles/a.css, 5]\nto: site'),
    said: ['anvil.yaml:3:26: error [wrong-type]'],
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
    hint: 'The keys are `renameGlobals`, `renameProperties`, `preserveNames`, `without`, `assume`, `licences`, `ascii`, `only` and `match`.',
  },
  'a step without the option it needs': {
    yaml: pipeline(`${styles}\nsteps: [join]`),
    said: ['anvil.yaml:5:13: error [missing-key]'],
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

/** Opens a project and makes its plan; returns what is wrong with it. */
async function mistakesOf(project: TestProject): Promise<readonly Diagnostic[]> {
  try {
    await (await Project.open({ folder: project.root })).plan();
    return [];
  } catch (error) {
    if (error instanceof DiagnosticError) return error.diagnostics;
    throw error;
  }
}

describe('mistakes in the project file', () => {
  it.each(Object.entries(mistakes))('%s', async (_, { yaml, said, hint, files }) => {
    const found = await mistakesOf(withProjectFile(yaml, files));
    expect(found.map((one) => shortened(formatLine(one)))).toEqual(said);
    for (const one of found)
      expect([one.message, one.hint, one.frame?.lines].every((part) => part !== undefined && part.length > 0)).toBe(
        true,
      );
    if (hint !== undefined) expect(found.map((one) => one.hint)).toContain(hint);
  });

  it('end the program with 2, before anything is written', async () => {
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

  it('are told all at once, in the order of the file', async () => {
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

  it('are drawn with the line of code, the place marked below it, and what to do', async () => {
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

  it('cannot fill the memory through aliases', async () => {
    const levels = [...'bcdefghi'].map(
      (name, at) => `${name}: &${name} [${Array(9).fill(`*${'abcdefghi'[at]!}`).join(', ')}]`,
    );
    const project = withProjectFile(`a: &a [x, x, x, x, x, x, x, x, x]\n${levels.join('\n')}\n${pipeline(styles)}`);
    const run = await project.diagnose();
    expect(run.code).toBe(2);
    expect(run.said).toEqual([expect.stringMatching(/^anvil\.yaml:\d+:\d+: error \[yaml-alias-bomb\]$/)]);
  });

  it('may use a few aliases', async () => {
    const project = withProjectFile(
      'pipelines:\n  one: &one { from: styles/a.css, to: &to site, steps: &steps [minify] }\n  two: { from: styles/b.css, to: *to, steps: *steps }\n',
    );
    await project.build();
    expect(project.read('site/b.css')).toBe('b{color:blue}');
  });

  it('that is no text is told by the byte', async () => {
    const project = withProjectFile(Buffer.from([0x70, 0x69, 0x70, 0x0a, 0x65, 0xff, 0x0a]));
    expect(await project.diagnose()).toMatchObject({ code: 2, said: ['anvil.yaml:2:2: error [not-utf8]'] });
  });
});

describe('finding the project file', () => {
  it('looks into the folders above', async () => {
    const project = withProjectFile(pipeline(styles));
    const run = await project.run(['build'], { folder: 'styles' });
    expect(run.code).toBe(0);
    expect(project.files('site')).toEqual(['site/a.css', 'site/b.css']);
  });

  it('says where it looked when there is none', async () => {
    const project = new TestProject({ 'a/b.css': '' });
    expect(await project.diagnose(['build'], { folder: 'a' })).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [project-missing]'],
      stderr: expect.stringContaining(project.path('a')) as string,
    });
  });

  it('takes another one by --config', async () => {
    const project = withProjectFile(pipeline('from: nothing.css\nto: site'), { 'other.yaml': pipeline(styles) });
    expect((await project.run(['build', '--config', 'other.yaml'])).code).toBe(0);
    expect(project.exists('site/a.css')).toBe(true);
    expect(await project.diagnose(['build', '--config', 'missing.yaml'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [project-unreadable]'],
    });
  });
});

describe('globs that match nothing', () => {
  const emptyGlob = async (from: string): Promise<string> => {
    const project = withProjectFile(pipeline(`from: [styles/a.css, ${from}]\nto: site`));
    const run = await project.run(['build']);
    expect(run.code).toBe(0);
    expect(run.stderr).toContain('warning  anvil.yaml:3:26');
    expect(run.stderr).toContain(`\`${from}\` of the pipeline \`one\` matches no file.`);
    return run.stderr;
  };

  it('are warned of, with the nearest folder', async () => {
    expect(await emptyGlob('stlyes/*.css')).toContain('There is no `stlyes`. Did you mean `styles`?');
  });

  it('are warned of, with the nearest file', async () => {
    expect(await emptyGlob('scripts/b.jsx')).toContain('There is no `scripts/b.jsx`.');
  });

  it('are warned of, when they name a folder', async () => {
    expect(await emptyGlob('scripts')).toContain('scripts is a folder; write scripts/**/* for what is in it.');
  });

  it('are warned of, when the folder holds other files', async () => {
    expect(await emptyGlob('scripts/*.ts')).toContain('The folder scripts is there, but no file in it fits');
  });
});
