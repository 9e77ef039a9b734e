// The guided tour of the demo: builds a temporary copy, breaks a file, fixes it, and shows the next steps.
import { spawnSync } from 'node:child_process';
import { appendFileSync, copyFileSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pico from 'picocolors';
import { copyDemo } from '../test/support/demo.js';

const clone = new URL('../../', import.meta.url).pathname;
const program = join(clone, 'dist/cli/bin.js');
const project = join(mkdtempSync(join(tmpdir(), 'fernlight-')), 'observatory');
copyDemo(clone, project);

let failed = false;

function say(title: string, text: string): void {
  console.log(`\n${pico.bold(title)}\n${text}\n`);
}

/** Runs the program as a user would, and checks its exit code. */
function run(args: readonly string[], expected = 0): void {
  console.log(pico.dim(`$ loyal-anvil ${args.join(' ')}`));
  const { status } = spawnSync(process.execPath, [program, ...args], { cwd: project, stdio: 'inherit' });
  if (status === expected) return;
  failed = true;
  console.error(`Expected exit code ${String(expected)}, got ${String(status)}.`);
}

function edit(file: string, from: string, to: string): void {
  const path = join(project, file);
  const text = readFileSync(path, 'utf8');
  if (!text.includes(from)) throw new Error(`${file} has no ${from}`);
  writeFileSync(path, text.replace(from, to));
}

say(
  '1. The plan',
  `This is a copy of the demo in ${project}.\nIts anvil.yaml has eight pipelines, which read and write these files.`,
);
run(['list']);

say('2. For development', 'Nothing is minified, and every style sheet and script has a source map.');
run(['build', '--profile', 'development']);

say(
  '3. For production',
  'The same pipelines with the steps for production: a release with hashes in the names and compressed files. --verbose lists each file with its size.',
);
run(['build', '--verbose']);

say('4. Building again', 'Nothing has changed, so nothing runs.');
run(['build']);

say(
  '5. A new colour',
  'A colour in styles/_theme.scss changes. Only the style sheets that use it, and the outputs made from them, are rebuilt.',
);
edit('styles/_theme.scss', '$night: #0d1524;', '$night: #0f1a30;');
run(['build', '--dry-run']);
run(['build']);

say(
  '6. A new picture',
  'pictures/refractor.png changes, and with its content its name. So do the references to it; all other files keep their names.',
);
copyFileSync(join(project, 'pictures/dome.png'), join(project, 'pictures/refractor.png'));
run(['build', '--dry-run']);
run(['build']);
run(['why', 'site/pictures/refractor.png']);

say('7. Why?', 'How that style sheet was built, and which outputs the theme affects.');
run(['why', 'site/css/site.css']);
run(['why', 'styles/_theme.scss']);

say(
  '8. An error',
  'A variable in styles/_theme.scss is misspelt. The diagnostic shows the source location; previous outputs are kept.',
);
edit('styles/_theme.scss', '$night: #0f1a30;', '$nigth: #0f1a30;');
run(['build', 'styles'], 1);

say('9. Fixed', 'The results for the original files are still in the store, so no job has to run.');
edit('styles/_theme.scss', '$nigth: #0f1a30;', '$night: #0d1524;');
run(['build']);

say(
  '10. A misspelt key',
  'Mistakes in the project file are reported before anything runs, with the nearest valid key.',
);
edit('anvil.yaml', 'from: styles/*.scss', 'form: styles/*.scss');
run(['build'], 2);
edit('anvil.yaml', 'form: styles/*.scss', 'from: styles/*.scss');

say('11. Another page', 'A line of data/week.yaml changes. Only the page that uses it is rendered again.');
edit('data/week.yaml', 'where: Terrace', 'where: Small dome');
run(['build']);

say(
  '12. A wrong type',
  'scripts/sky/stars.ts has a mistake that the type checker finds. It holds the release; the previous one is kept.',
);
appendFileSync(join(project, 'scripts/sky/stars.ts'), "export const brightest: number = 'Vega';\n");
run(['build'], 1);
edit('scripts/sky/stars.ts', "export const brightest: number = 'Vega';\n", '');

say(
  '13. An edition',
  'The profile `kiosk` is for the screen in the foyer: without the parts of pages that are for others.',
);
run(['build', '--profile', 'kiosk']);

say('14. What weighs what', 'A page on the outputs of that release, what they are made of, and where the time went.');
run(['report']);

say(
  'Next steps',
  `Serve the copy in ${project}, and change a file there:\n\n  cd ${project} && node ${program} serve --open\n\nThe README explains how to set up a project.`,
);
process.exitCode = failed ? 1 : 0;
