import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { diagnostic, DiagnosticError, fail } from '../../core/diagnostics/index.js';
import { reasonOf } from '../../core/files/reason.js';
import { projectFileName } from '../../core/project/find.js';
import { ExitCode } from '../exit-code.js';
import { count } from '../terminal/figures.js';
import type { CliCommand } from './command.js';

const schemaFileName = 'anvil.schema.json';

/** Scripts that --scripts adds to package.json. */
const packageScripts: Readonly<Record<string, string>> = {
  build: 'loyal-anvil build',
  watch: 'loyal-anvil watch',
  serve: 'loyal-anvil serve',
  clean: 'loyal-anvil clean',
};

/** `init`: writes a project file for what the folder holds. */
export const initCommand: CliCommand<{ scripts?: boolean }> = {
  name: 'init',
  description: 'write an anvil.yaml that builds what is in this folder; nothing is overwritten',
  setUp(command) {
    command.option('--scripts', 'also add scripts to package.json');
  },
  async run({ options, reporter }) {
    const [{ listFilesOnce }, { proposeProject }, { projectSchema }, { stepCatalogue }] = await Promise.all([
      import('../../core/files/globs.js'),
      import('../../core/project/proposal.js'),
      import('../../core/project/schema.js'),
      import('../../core/steps/index.js'),
    ]);
    const file = options.config ?? projectFileName;
    if (existsSync(file)) fail('init-exists', { file });
    const proposal = proposeProject({
      files: listFilesOnce('.', '**/*'),
      read: (path) => readFileSync(path, 'utf8'),
      isPartial: (path) => stepCatalogue.isPartial(path),
    });
    if (!proposal) return fail('init-nothing', { folder: process.cwd() });
    const manifest = options.scripts ? withScripts() : undefined;
    const files = [
      [file, proposal.yaml],
      ...(existsSync(schemaFileName)
        ? []
        : [[schemaFileName, `${JSON.stringify(projectSchema(stepCatalogue), null, 2)}\n`]]),
      ...(manifest === undefined ? [] : [['package.json', manifest]]),
    ] as [name: string, text: string][];
    for (const [name, text] of files) writeFile(name, text, name === 'package.json');
    reporter.created(
      files.map(([name]) => name),
      [
        `It has ${count(proposal.pipelines.length, 'pipeline')}: ${proposal.pipelines.join(', ')}. The site is built into ${proposal.output}.`,
        'Look at the plan with `loyal-anvil list`, and build with `loyal-anvil build`.',
        'To see it while you work: `loyal-anvil serve --open`.',
      ],
    );
    return ExitCode.done;
  },
};

function writeFile(name: string, text: string, replace: boolean): void {
  try {
    writeFileSync(name, text, { flag: replace ? 'w' : 'wx' });
  } catch (error) {
    throw new DiagnosticError(diagnostic('output-unwritable', { output: name, reason: reasonOf(error) }));
  }
}

/** The text of package.json with the scripts added; those that are there stay as they are. */
function withScripts(): string | undefined {
  if (!existsSync('package.json')) return fail('init-package', { reason: 'there is none in this folder' });
  const text = readFileSync('package.json', 'utf8');
  let manifest: { scripts?: Record<string, string> };
  try {
    manifest = JSON.parse(text) as typeof manifest;
  } catch {
    return fail('init-package', { reason: 'it is not valid JSON' });
  }
  const missing = Object.entries(packageScripts).filter(([name]) => manifest.scripts?.[name] === undefined);
  if (missing.length === 0) return undefined;
  const indent = /^[ \t]+(?=")/m.exec(text)?.[0] ?? '  ';
  const added = { ...manifest, scripts: { ...manifest.scripts, ...Object.fromEntries(missing) } };
  return JSON.stringify(added, null, indent) + (text.endsWith('\n') ? '\n' : '');
}
