import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { diagnostic, DiagnosticError, fail } from '../../core/diagnostics/index.js';
import { reasonOf } from '../../core/files/reason.js';
import { readRegularFile } from '../../core/files/regular-file.js';
import { projectFileName } from '../../core/config/find.js';
import type { FolderView, Proposal } from '../../core/scaffold/index.js';
import { isOutputPath } from '../../core/files/project-path.js';
import { ExitCode } from '../exit-code.js';
import type { Reporter } from '../reporter.js';
import { ask } from '../terminal/ask.js';
import { count } from '../terminal/figures.js';
import type { CliCommand } from './command.js';

/** The maximum number of files to list. */
const namedFiles = 8;

const schemaFileName = 'anvil.schema.json';

/** Options of `init`. */
interface InitOptions {
  readonly scripts?: boolean;
  readonly yes?: boolean;
  readonly fromScratch?: boolean;
}

/** `init`: writes a project file for the content of the folder. */
export const initCommand: CliCommand<InitOptions> = {
  name: 'init',
  description: 'create an anvil.yaml for the files in this folder; nothing is overwritten',
  examples: [
    ['loyal-anvil init', 'look at this folder, show what fits it, and write anvil.yaml'],
    ['loyal-anvil init --yes --scripts', 'the same without questions, with scripts in package.json'],
    ['loyal-anvil init --from-scratch', 'write a small site to start with'],
  ],
  setUp(command) {
    command
      .option('-y, --yes', 'ask nothing')
      .option('--from-scratch', 'write a small site to start with')
      .option('--scripts', 'also add scripts to package.json');
  },
  async run({ options, reporter }) {
    const file = options.config ?? projectFileName;
    if (existsSync(file)) fail('init-exists', { file });
    const manifest = (hasChecks: boolean): AddedScripts | undefined =>
      options.scripts ? withScripts(hasChecks) : undefined;
    if (options.fromScratch) return writeStarter(manifest(false), reporter);
    const [{ proposeProject }, { stepCatalogue }] = await Promise.all([
      import('../../core/scaffold/index.js'),
      import('../../core/steps/index.js'),
    ]);
    const view = await viewFolder((path) => stepCatalogue.isPartial(path));
    const proposal = proposeProject({ ...view, rendered: await renderedPages(view) });
    if (!proposal) return fail('init-nothing', { folder: process.cwd() });
    const scripts = manifest(proposal.hasChecks);
    reporter.proposed(proposal.yaml());
    const isAsking = reporter.hasKeys && options.yes !== true;
    const output = isAsking && proposal.isOutputShown ? await askForFolder(proposal.output, view) : proposal.output;
    const yaml = proposal.yaml(output);
    const sources = view.files.filter((path) => !path.startsWith(`${output}/`));
    const { diagnostics } = await (await import('../../core/trial.js')).tryProject(process.cwd(), sources, yaml);
    reporter.diagnostics(diagnostics);
    if (isAsking && !/^y/i.test(await ask(`Write ${file}? [Y/n] `, 'y'))) return ExitCode.done;
    const schema = await schemaText();
    const files = [
      [file, yaml],
      ...(existsSync(schemaFileName) ? [] : [[schemaFileName, schema]]),
      ...(scripts === undefined || scripts.added.length === 0 ? [] : [['package.json', scripts.text]]),
    ] as [name: string, text: string][];
    for (const [name, text] of files) writeFile(name, text, name === 'package.json');
    reporter.created(
      files.map(([name]) => name),
      [
        `${count(proposal.pipelines.length, 'pipeline')}: ${proposal.pipelines.join(', ')}. Output folder: ${output}.`,
        ...(scripts ? [describeScripts(scripts.added)] : []),
        'Show the plan with `loyal-anvil list`; build with `loyal-anvil build`.',
        'Develop with `loyal-anvil serve --open`.',
        ...notesOn({ ...proposal, output }),
      ],
    );
    return ExitCode.done;
  },
};

/** The pages that are templates, as they are rendered: only then it is known what they refer to. */
async function renderedPages(view: FolderView): Promise<ReadonlyMap<string, string>> {
  const { draftTemplates } = await import('../../core/scaffold/index.js');
  const draft = draftTemplates(view);
  if (!draft) return new Map();
  const { tryProject } = await import('../../core/trial.js');
  const { texts } = await tryProject(process.cwd(), view.files, draft.yaml, [...draft.outputs.values()]);
  return new Map(
    [...draft.outputs].flatMap(([path, output]) => (texts.has(output) ? [[path, texts.get(output)!]] : [])),
  );
}

/** Asks for the folder of outputs: nothing says which one is meant. */
async function askForFolder(proposed: string, { files }: FolderView): Promise<string> {
  for (;;) {
    const folder = (await ask(`Folder for the outputs [${proposed}]: `, proposed)).replace(/\/+$/, '');
    if (isOutputPath(folder) && !files.some((path) => path.startsWith(`${folder}/`))) return folder;
  }
}

async function schemaText(): Promise<string> {
  const [{ projectSchema }, { stepCatalogue }] = await Promise.all([
    import('../../core/config/schema.js'),
    import('../../core/steps/index.js'),
  ]);
  return `${JSON.stringify(projectSchema(stepCatalogue), null, 2)}\n`;
}

/** Writes a small site, unless one of its files is there already. */
async function writeStarter(scripts: AddedScripts | undefined, reporter: Reporter): Promise<number> {
  const { starterFiles } = await import('../../core/scaffold/starter.js');
  const files = new Map([
    ...Object.entries(starterFiles),
    ...(existsSync(schemaFileName) ? [] : ([[schemaFileName, await schemaText()]] as const)),
    ...(existsSync('.gitignore') ? [] : ([['.gitignore', 'node_modules\nsite\n']] as const)),
  ]);
  for (const file of files.keys()) if (existsSync(file)) fail('init-exists', { file });
  for (const [file, text] of files) {
    mkdirSync(dirname(file), { recursive: true });
    writeFile(file, text, false);
  }
  if (scripts && scripts.added.length > 0) writeFile('package.json', scripts.text, true);
  reporter.created(
    [...files.keys()],
    [
      ...(scripts ? [describeScripts(scripts.added)] : []),
      'See the site with `loyal-anvil serve --open`, and change pages/index.html.',
    ],
  );
  return ExitCode.done;
}

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
function notesOn({ output, isOutputShown, leftOut, needPackages, unresolved, series }: Proposal): string[] {
  const isUnderGit = existsSync('.git') || existsSync('.gitignore');
  const packages = [...needPackages].map(([path, name]) => `${path} (${name})`);
  const classic = [...series].map(([page, number]) => `${page} (${count(number, 'script')})`);
  const missing = [...unresolved].map(([url, file]) => `${url} (in ${file})`);
  return [
    ...(isOutputShown && isUnderGit ? [`Git does not ignore ${output}: add it to .gitignore.`] : []),
    ...listed('Omitted, because no page refers to it:', leftOut),
    ...listed('Omitted, because they import packages that are not installed, or that cannot be linked here:', packages),
    ...listed('Referenced but not found:', missing),
    ...listed('Several classic scripts, which `join` can make one file, if the page loads that one:', classic),
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

/** The text of package.json with more scripts, and their names. */
interface AddedScripts {
  readonly text: string;
  readonly added: readonly string[];
}

/** What package managers write as a script where there is none. */
const noScript = /no test specified/;

/** Adds scripts to the text of package.json; existing ones are not changed. */
function withScripts(hasChecks: boolean): AddedScripts {
  if (!existsSync('package.json')) return fail('init-package', { reason: 'it does not exist in this folder' });
  const text = readText('package.json');
  let manifest: { scripts?: Record<string, string> };
  try {
    manifest = JSON.parse(text) as typeof manifest;
  } catch {
    return fail('init-package', { reason: 'it is not valid JSON' });
  }
  const wanted = {
    start: 'loyal-anvil serve --open',
    build: 'loyal-anvil build',
    watch: 'loyal-anvil watch',
    // Checks are pipelines like the others.
    ...(hasChecks && { test: 'loyal-anvil build' }),
  };
  const isFree = (name: string): boolean => noScript.test(manifest.scripts?.[name] ?? 'no test specified');
  const missing = Object.entries(wanted).filter(([name]) => isFree(name));
  const indent = /^[ \t]+(?=")/m.exec(text)?.[0] ?? '  ';
  const added = { ...manifest, scripts: { ...manifest.scripts, ...Object.fromEntries(missing) } };
  return {
    text: JSON.stringify(added, null, indent) + (text.endsWith('\n') ? '\n' : ''),
    added: missing.map(([name]) => name),
  };
}
