import {
  DiagnosticError,
  formatLine,
  minifyScript,
  minifyStyle,
  prefixStyle,
  Project,
  type BuildEvent,
} from 'loyal-anvil';
import { describe, expect, it } from 'vitest';
import { pipeline, TestProject } from './support/project.js';

const files = {
  'src/a.css': 'a { color: #ff0000 }\n',
  'src/b.css': 'b { }\n',
  'anvil.yaml': pipeline('from: src/*.css\nto: site\nsteps: [minify]'),
};

describe('the public interface', () => {
  it('opens a project, plans it, and builds it', async () => {
    const folder = new TestProject(files);
    const project = await Project.open({ folder: folder.path('src') });
    expect(project).toMatchObject({ root: folder.root, file: 'anvil.yaml' });
    expect(await project.profiles()).toEqual(['development', 'production']);
    const plan = await project.plan('development');
    expect(plan.profile).toMatchObject({ name: 'development', maps: 'file' });
    expect(plan.pipelines[0]).toMatchObject({
      name: 'one',
      sources: [
        { path: 'src/a.css', target: 'a.css' },
        { path: 'src/b.css', target: 'b.css' },
      ],
      claims: ['site/a.css', 'site/b.css'],
    });
    const events: BuildEvent[] = [];
    const report = await project.build({ profile: 'production', listen: (event) => events.push(event) });
    expect(report).toMatchObject({ done: true, profile: 'production', diagnostics: [] });
    expect(report.pipelines[0]!.outputs).toMatchObject([
      { path: 'site/a.css', state: 'written', bytes: 12 },
      { path: 'site/b.css', state: 'written', bytes: 0 },
    ]);
    expect(events.map((one) => one.event)).toEqual([
      'build-started',
      'pipeline-started',
      'job-ran',
      'job-ran',
      'job-done',
      'job-done',
      'pipeline-done',
      'build-done',
    ]);
    expect(folder.read('site/a.css')).toBe('a{color:red}');
    expect(await project.clean()).toEqual({ removed: ['site/a.css', 'site/b.css'], diagnostics: [] });
  });

  it('throws diagnostics of the project file, and returns those of sources', async () => {
    const folder = new TestProject({ ...files, 'bad.yaml': pipeline('from: 5\nto: site') });
    const error: unknown = await Project.open({ folder: folder.root, config: 'bad.yaml' }).catch((one: unknown) => one);
    expect(error).toBeInstanceOf(DiagnosticError);
    expect((error as DiagnosticError).diagnostics.map(formatLine)).toEqual([
      'bad.yaml:3:11: error: `from` takes a glob or a list of globs, not the number 5. [wrong-type]',
    ]);
    folder.write('src/b.css', 'b {\n');
    const report = await (await Project.open({ folder: folder.root })).build();
    expect(report.done).toBe(false);
    expect(report.diagnostics).toMatchObject([
      { code: 'style-syntax', file: 'src/b.css', pipeline: 'one', frame: { firstLine: 1, lines: ['b {', ''] } },
    ]);
  });

  it('aborts a build when its signal aborts', async () => {
    const folder = new TestProject(files);
    const report = await (await Project.open({ folder: folder.root })).build({ signal: AbortSignal.abort() });
    expect(report).toMatchObject({ done: false, pipelines: [{ state: 'interrupted', outputs: [] }] });
    expect(folder.exists('site')).toBe(false);
  });

  it('has synchronous pure functions', () => {
    expect(minifyStyle('a { color: #ff0000; }')).toEqual({ text: 'a{color:red}', diagnostics: [] });
    expect(minifyScript('let a = true;')).toEqual({ text: 'let a=!0', diagnostics: [] });
    expect(prefixStyle('a{user-select:none}', { browsers: 'safari 17' }).text).toBe(
      'a{-webkit-user-select:none;user-select:none}',
    );
    expect(minifyScript('')).toEqual({ text: '', diagnostics: [] });
    expect(minifyStyle('')).toEqual({ text: '', diagnostics: [] });
  });
});
