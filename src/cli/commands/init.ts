import { existsSync, writeFileSync } from 'node:fs';
import { diagnostic, DiagnosticError, fail } from '../../core/diagnostics/index.js';
import { reasonOf } from '../../core/files/reason.js';
import { readRegularFile } from '../../core/files/regular-file.js';
import { projectFileName } from '../../core/config/find.js';
import type { FolderView, Proposal } from '../../core/scaffold/index.js';
import { ExitCode } from '../exit-code.js';
import { count } from '../terminal/figures.js';
import type { CliCommand } from './command.js';

/** The maximum number of files to list. */
const namedFiles = 8;

const schemaFileName = 'anvil.schema.json';

/** Scripts that --scripts adds to package.json. */
const packageScripts: Readonly<Record<string, string>> = {
  build: 'loyal-anvil build',
  watch: 'loyal-anvil watch',
  serve: 'loyal-anvil serve',
  clean: 'loyal-anvil clean',
};

/** `init`: writes a project file for the content of the folder. */
export const initCommand: CliCommand<{ scripts?: boolean }> = {
  name: 'init',
  description: 'create an anvil.yaml for the files in this folder; nothing is overwritten',
  examples: [
    ['loyal-anvil init', 'look at this folder and write anvil.yaml'],
    ['loyal-anvil init --scripts', 'also add scripts to package.json'],
  ],
  setUp(command) {
    command.option('--scripts', 'also add scripts to package.json');
  },
  async run({ options, reporter }) {
    const [{ proposeProject }, { projectSchema }, { stepCatalogue }] = await Promise.all([
      import('../../core/scaffold/index.js'),
      import('../../core/config/schema.js'),
      import('../../core/steps/index.js'),
    ]);
    const file = options.config ?? projectFileName;
    if (existsSync(file)) fail('init-exists', { file });
    const proposal = proposeProject(await viewFolder((path) => stepCatalogue.isPartial(path)));
    if (!proposal) return fail('init-nothing', { folder: process.cwd() });
    const manifest = options.scripts ? withScripts() : undefined;
    const files = [
      [file, proposal.yaml],
      ...(existsSync(schemaFileName)
        ? []
        : [[schemaFileName, `${JSON.stringify(projectSchema(stepCatalogue), null, 2)}\n`]]),
      ...(manifest === undefined || manifest.added.length === 0 ? [] : [['package.json', manifest.text]]),
    ] as [name: string, text: string][];
    for (const [name, text] of files) writeFile(name, text, name === 'package.json');
    reporter.created(
      files.map(([name]) => name),
      [
        `${count(proposal.pipelines.length, 'pipeline')}: ${proposal.pipelines.join(', ')}. Output folder: ${proposal.output}.`,
        ...(manifest ? [describeScripts(manifest.added)] : []),
        'Show the plan with `loyal-anvil list`; build with `loyal-anvil build`.',
        'Develop with `loyal-anvil serve --open`.',
        ...notesOn(proposal),
      ],
    );
    return ExitCode.done;
  },
};

/** The files of the working folder. */
async function viewFolder(isPartial: (path: string) => boolean): Promise<FolderView> {
  const [{ FolderTree }, { listFiles }] = await Promise.all([
    import('../../core/files/folder-tree.js'),
    import('../../core/files/list-files.js'),
  ]);
  const tree = new FolderTree(process.cwd());
  const ignored = ignoredFolders();
  return {
    files: listFiles(tree, '**/*'),
    read: readText,
    list: (glob) => listFiles(tree, glob),
    isPartial,
    isIgnored: (folder) => ignored.has(folder),
  };
}

function readText(path: string): string {
  try {
    return readRegularFile(path).toString('utf8');
  } catch {
    return '';
  }
}

/** Folders at the top that `.gitignore` names (gitignore documentation, "pattern format"). */
function ignoredFolders(): Set<string> {
  const lines = readText('.gitignore').split(/\r?\n/);
  const names = lines.map((line) => line.trim().replace(/^(\*\*)?\/|\/(\*{1,2})?$/g, ''));
  return new Set(names.filter((name) => /^[\w.-]+$/.test(name)));
}

/** Notes on a scaffold that its project file does not contain. */
function notesOn({ output, isOutputShown, leftOut, needPackages, unresolved }: Proposal): string[] {
  const isUnderGit = existsSync('.git') || existsSync('.gitignore');
  const packages = [...needPackages].map(([path, name]) => `${path} (${name})`);
  const missing = [...unresolved].map(([url, file]) => `${url} (in ${file})`);
  return [
    ...(isOutputShown && isUnderGit ? [`Git does not ignore ${output}: add it to .gitignore.`] : []),
    ...listed('Omitted, because no page refers to it:', leftOut),
    ...listed('Omitted, because browsers cannot resolve package names:', packages),
    ...listed('Referenced but not found:', missing),
  ];
}

/** Lines with one item each. */
function listed(title: string, items: readonly string[]): string[] {
  if (items.length === 0) return [];
  const more = items.length - namedFiles;
  const lines = [...items.slice(0, namedFiles), ...(more > 0 ? [`and ${String(more)} more`] : [])];
  return [title, ...lines.map((line) => `  ${line}`)];
}

function describeScripts(added: readonly string[]): string {
  if (added.length === 0) return 'package.json already contains all scripts.';
  return `Added to package.json: ${added.map((name) => `\`${name}\``).join(', ')}.`;
}

function writeFile(name: string, text: string, replace: boolean): void {
  try {
    writeFileSync(name, text, { flag: replace ? 'w' : 'wx' });
  } catch (error) {
    throw new DiagnosticError(diagnostic('output-unwritable', { output: name, reason: reasonOf(error) }));
  }
}

/** Adds scripts to the text of package.json; returns their names, too. Existing scripts are not changed. */
function withScripts(): { readonly text: string; readonly added: readonly string[] } {
  if (!existsSync('package.json')) return fail('init-package', { reason: 'it does not exist in this folder' });
  const text = readText('package.json');
  let manifest: { scripts?: Record<string, string> };
  try {
    manifest = JSON.parse(text) as typeof manifest;
  } catch {
    return fail('init-package', { reason: 'it is not valid JSON' });
  }
  const missing = Object.entries(packageScripts).filter(([name]) => manifest.scripts?.[name] === undefined);
  const indent = /^[ \t]+(?=")/m.exec(text)?.[0] ?? '  ';
  const added = { ...manifest, scripts: { ...manifest.scripts, ...Object.fromEntries(missing) } };
  return {
    text: JSON.stringify(added, null, indent) + (text.endsWith('\n') ? '\n' : ''),
    added: missing.map(([name]) => name),
  };
}
