import { execFileSync } from 'node:child_process';
import { chmodSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import { program } from './support/program.js';
import { TestProject } from './support/project.js';

/** A project with the program on the path, as a shell finds it. */
function shellProject(): TestProject {
  const project = new TestProject({
    'anvil.yaml': `profiles: { trial: {} }
pipelines:
  styles: { description: "The sheets: all of them", from: a.css, to: site }
  scripts: { from: b.js, to: site }
`,
    'bin/loyal-anvil': `#!/bin/sh\nexec '${process.execPath}' '${program}' "$@"\n`,
  });
  chmodSync(project.path('bin/loyal-anvil'), 0o755);
  return project;
}

describe('completion', () => {
  it('offers commands, options, pipelines and profiles with their descriptions', async () => {
    const project = shellProject();
    const after = async (...words: string[]): Promise<string[]> =>
      (await project.run(['completion', '--for', '--', ...words])).stdout.split('\n').slice(0, -1);
    expect(await after('wa')).toEqual([expect.stringMatching(/^watch\tbuild the pipelines/)]);
    expect(await after('build', '')).toEqual(['styles\tThe sheets: all of them', 'scripts']);
    expect(await after('build', 'styles', '')).toEqual(['scripts']);
    expect(await after('list', '-p', '')).toEqual(['development', 'production', 'trial']);
    expect(await after('list', '--profile', 'trial', 'sc')).toEqual(['scripts']);
    expect(await after('serve', '--h')).toEqual([expect.stringMatching(/^--host\t/)]);
    expect(await after('build', '--format', '')).toEqual(['pretty', 'lines', 'json', 'sarif']);
    expect(await after('completion', 'z')).toEqual(['zsh']);
    expect([await after('help', 'cl'), await after('why', ''), await after('build', '-c', '')]).toEqual([
      [expect.stringMatching(/^clean\t/)],
      [':files'],
      [':files'],
    ]);
    project.write('anvil.yaml', 'pipelines: [');
    expect([await after('build', ''), await after('nothing', '')]).toEqual([[], []]);
    expect(await project.diagnose(['completion', 'tcsh'])).toMatchObject({
      code: 2,
      said: ['loyal-anvil: error [usage]'],
    });
    expect((await project.run(['build', '--help'])).stdout).toMatch(/Examples:\n {2}loyal-anvil build {2,}a release/);
  });

  it('works in bash', async () => {
    const project = shellProject();
    project.write('completion.bash', (await project.run(['completion', 'bash'])).stdout);
    const typed = 'COMP_WORDS=(loyal-anvil build -p production s); COMP_CWORD=4; _loyal_anvil; echo "${COMPREPLY[*]}"';
    const env = { ...process.env, PATH: `${project.path('bin')}:${process.env['PATH'] ?? ''}` };
    const said = execFileSync('bash', ['-c', `source completion.bash; ${typed}`], { cwd: project.root, env });
    expect(said.toString()).toBe('styles scripts\n');
  });
});
