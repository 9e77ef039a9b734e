import { existsSync, mkdirSync, writeFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { diagnostic, DiagnosticError, fail } from '../../core/diagnostics/index.js';
import { reasonOf } from '../../core/files/reason.js';
import { readRegularFile } from '../../core/files/regular-file.js';
import { replaceFile } from '../../core/files/write-file.js';
import { projectFileName } from '../../core/config/find.js';
import { jsonErrorOf } from '../../core/languages/json-error.js';
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
  readonly to?: string;
}

/** `init`: writes a project file for the content of the folder. */
export const initCommand: CliCommand<InitOptions> = {
  name: 'init',
  description: 'create an anvil.yaml for the files in this folder, unless there is one',
  examples: [
    ['loyal-anvil init', 'look at this folder, show what fits it, and write anvil.yaml'],
    ['loyal-anvil init --yes --scripts', 'the same without questions, with scripts in package.json'],
    ['loyal-anvil init --to public', 'with the outputs in that folder'],
    ['loyal-anvil init --from-scratch', 'write a small site to start with'],
  ],
  setUp(command) {
    command
      .option('-y, --yes', 'ask nothing')
      .option('--to <folder>', 'the folder for the outputs')
      .option('--from-scratch', 'write a small site to start with')
      .option('--scripts', 'also add scripts to package.json');
  },
  async run({ options, reporter, signal }) {
    const file = options.config ?? projectFileName;
    if (existsSync(file)) fail('init-exists', { file });
    const manifest = (hasChecks: boolean): AddedScripts | undefined =>
      options.scripts ? withScripts(hasChecks) : undefined;
    if (options.to !== undefined && (options.fromScratch || !isOutputPath(options.to.replace(/\/+$/, ''))))
      fail('usage', {
        message: `--to ${options.fromScratch ? 'has no effect with --from-scratch' : `needs a folder inside the project, not \`${options.to}\``}.`,
        help: 'Name a folder relative to this one, such as `--to public`.',
      });
    if (options.fromScratch) return writeStarter(manifest(false), reporter);
    const [{ proposeProject }, { stepCatalogue }] = await Promise.all([
      import('../../core/scaffold/index.js'),
      import('../../core/steps/index.js'),
    ]);
    const view = await viewFolder((path) => stepCatalogue.isPartial(path));
    const proposal = proposeProject({ ...view, rendered: await renderedPages(view, signal) });
    if (!proposal) return fail('init-nothing', { folder: process.cwd() });
    const scripts = manifest(proposal.hasChecks);
    const named = options.to?.replace(/\/+$/, '');
    reporter.proposed(proposal.yaml(named));
    const isAsking = reporter.hasKeys && options.yes !== true;
    const isOpen = isAsking && named === undefined && proposal.isOutputShown;
    const output = isOpen ? await askForFolder(proposal.output, view, signal) : (named ?? proposal.output);
    if (output === undefined) return interrupted(reporter);
    const yaml = proposal.yaml(output);
    const sources = view.files.filter((path) => !path.startsWith(`${output}/`));
    const { diagnostics } = await (
      await import('../../core/trial.js')
    ).tryProject(process.cwd(), sources, yaml, { signal });
    if (signal.aborted) return interrupted(reporter);
    reporter.diagnostics(diagnostics);
    const declared = await declaredTypes(proposal, view);
    const change = declared === undefined ? '' : ' and change tsconfig.json';
    const answer = isAsking ? await ask(`Write ${file}${change}? [Y/n] `, 'y', signal) : 'y';
    if (answer === undefined) return interrupted(reporter);
    if (!/^y/i.test(answer)) return ExitCode.done;
    const schema = await schemaText();
    const created = new Map([[file, yaml], ...(existsSync(schemaFileName) ? [] : [[schemaFileName, schema] as const])]);
    const changed = new Map([
      ...(scripts === undefined || scripts.added.length === 0 ? [] : [['package.json', scripts.text] as const]),
      ...(declared === undefined ? [] : [['tsconfig.json', declared] as const]),
    ]);
    for (const [name, text] of created) writeFile(name, text, false);
    for (const [name, text] of changed) writeFile(name, text, true);
    reporter.created(
      [...created.keys()],
      [...changed.keys()],
      [
        `${count(proposal.pipelines.length, 'pipeline')}: ${proposal.pipelines.join(', ')}. Output folder: ${output}.`,
        ...(scripts ? [describeScripts(scripts.added)] : []),
        ...(declared === undefined ? [] : [declarationsNote]),
        `Show the plan with \`${program()} list\`; build with \`${program()} build\`.`,
        `Develop with \`${program()} serve --open\`.`,
        ...notesOn({ ...proposal, output }),
      ],
    );
    return ExitCode.done;
  },
};

/** tsconfig.json with the declarations of files that scripts import, if types are checked and it lacks them. */
async function declaredTypes({ checksTypes }: Proposal, view: FolderView): Promise<string | undefined> {
  if (!checksTypes) return undefined;
  return (await import('../../core/scaffold/type-declarations.js')).withDeclarations(view);
}

const declarationsNote =
  'Added to `types` in tsconfig.json: "loyal-anvil/imports", which declares style sheets, texts and pictures that scripts import.';

/** Ends without having written anything. */
function interrupted(reporter: Reporter): number {
  reporter.diagnostics([diagnostic('interrupted', {})]);
  return ExitCode.interrupted;
}

/** The pages that are templates, as they are rendered: only then it is known what they refer to. */
async function renderedPages(view: FolderView, signal: AbortSignal): Promise<ReadonlyMap<string, string>> {
  const { draftTemplates } = await import('../../core/scaffold/index.js');
  const draft = draftTemplates(view);
  if (!draft) return new Map();
  const { tryProject } = await import('../../core/trial.js');
  const { texts } = await tryProject(process.cwd(), view.files, draft.yaml, {
    wanted: [...draft.outputs.values()],
    signal,
  });
  return new Map(
    [...draft.outputs].flatMap(([path, output]) => (texts.has(output) ? [[path, texts.get(output)!]] : [])),
  );
}

/** Asks for the folder of outputs: nothing says which one is meant. */
async function askForFolder(proposed: string, { files }: FolderView, signal: AbortSignal): Promise<string | undefined> {
  for (;;) {
    const answer = await ask(`Folder for the outputs [${proposed}]: `, proposed, signal);
    if (answer === undefined) return undefined;
    const folder = answer.replace(/\/+$/, '');
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
  reporter.created([...files.keys()], scripts && scripts.added.length > 0 ? ['package.json'] : [], [
    ...(scripts ? [describeScripts(scripts.added)] : []),
    `See the site with \`${program()} serve --open\`, and change pages/index.html.`,
  ]);
  return ExitCode.done;
}

/** How people start the program here: an installation in the folder is found by the package manager. */
const program = (): string => (existsSync('node_modules/loyal-anvil') ? 'npx loyal-anvil' : 'loyal-anvil');

/** The files of the working folder. */
async function viewFolder(isPartial: (path: string) => boolean): Promise<FolderView> {
  const [{ FolderTree }, { listFiles }] = await Promise.all([
    import('../../core/files/folder-tree.js'),
    import('../../core/files/list-files.js'),
  ]);
  const tree = new FolderTree(process.cwd());
  const all = listFiles(tree, '**/*');
  const isIgnored = await ignoredTest(listFiles(tree, '**/.gitignore'));
  return {
    // What Git ignores was made from other files.
    files: all.filter((path) => !isIgnored(path)),
    ignored: all.filter(isIgnored),
    read: readText,
    list: (glob) => listFiles(tree, glob),
    isPartial,
    isIgnored: (folder) => isIgnored(`${folder}/`),
  };
}

function readText(path: string): string {
  try {
    return readRegularFile(path).toString('utf8');
  } catch {
    return '';
  }
}

/** A test for paths that Git ignores, by the `.gitignore` of each folder; those of folders end with `/`. */
async function ignoredTest(files: readonly string[]): Promise<(path: string) => boolean> {
  const { default: ignore } = await import('ignore');
  const tests = files.map((file) => ({
    folder: file.slice(0, -'.gitignore'.length),
    rules: ignore().add(readText(file)),
  }));
  return (path) =>
    tests.some(({ folder, rules }) => {
      const inside = path.startsWith(folder) ? path.slice(folder.length) : '';
      return inside !== '' && rules.ignores(inside);
    });
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
    ...listed('Omitted, because what they import is not installed, or cannot be linked here:', packages),
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
    if (replace) replaceFile(name, text);
    else writeFileSync(name, text, { flag: 'wx' });
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
  } catch (error) {
    const { offset } = jsonErrorOf(text, error);
    const place = { file: 'package.json', text, offsets: [offset, offset + 1] as const };
    return fail('init-package', { reason: 'it is not valid JSON' }, place);
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
