// The guided run of the demo: builds it in a temporary copy, breaks a file, mends it, and says how to go on.
import { spawnSync } from 'node:child_process';
import { cpSync, mkdtempSync, readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import pico from 'picocolors';

const clone = new URL('../../', import.meta.url).pathname;
const program = join(clone, 'dist/cli/bin.js');
const project = join(mkdtempSync(join(tmpdir(), 'fernlight-')), 'observatory');
cpSync(join(clone, 'demo'), project, { recursive: true });

let failed = false;

function say(title: string, text: string): void {
  console.log(`\n${pico.bold(title)}\n${text}\n`);
}

/** Runs the program as somebody would type it, and holds it to the exit code that the story needs. */
function run(args: readonly string[], expected = 0): void {
  console.log(pico.dim(`$ loyal-anvil ${args.join(' ')}`));
  const { status } = spawnSync(process.execPath, [program, ...args], { cwd: project, stdio: 'inherit' });
  if (status === expected) return;
  failed = true;
  console.error(`This was to end with ${String(expected)}, and ended with ${String(status)}.`);
}

function edit(file: string, from: string, to: string): void {
  const path = join(project, file);
  const text = readFileSync(path, 'utf8');
  if (!text.includes(from)) throw new Error(`${file} has no ${from}`);
  writeFileSync(path, text.replace(from, to));
}

say(
  '1. The plan',
  `A copy of the demo lies in ${project}.\nIts anvil.yaml has six pipelines; this is what they read and write.`,
);
run(['list']);

say('2. For development', 'Nothing is minified, and every sheet and script gets a source map.');
run(['build', '--profile', 'development']);

say('3. For production', 'The same pipelines with what production adds; --verbose shows each file and what it weighs.');
run(['build', '--verbose']);

say('4. Once more', 'Nothing has changed, so nothing runs.');
run(['build']);

say(
  '5. A new colour',
  'styles/_theme.scss gets another night. Only the sheets that use it, and what is made of them, are made again.',
);
edit('styles/_theme.scss', '$night: #0d1524;', '$night: #0f1a30;');
run(['build', '--dry-run']);
run(['build']);

say('6. Why?', 'What that sheet is made of, and what the theme reaches.');
run(['why', 'site/css/site.css']);
run(['why', 'styles/_theme.scss']);

say(
  '7. A slip of the hand',
  'styles/_theme.scss loses a sign. The diagnostic points into the file as it was written; the last good output stays.',
);
edit('styles/_theme.scss', '$night: #0f1a30;', '$nigth: #0f1a30;');
run(['build', 'styles'], 1);

say('8. Fixed: back to the first state', 'The results of the first state are still in the store: nothing has to run.');
edit('styles/_theme.scss', '$nigth: #0f1a30;', '$night: #0d1524;');
run(['build']);

say('9. A misspelt key', 'Mistakes in the project file are told before anything runs, with the nearest right word.');
edit('anvil.yaml', 'from: styles/*.scss', 'form: styles/*.scss');
run(['build'], 2);
edit('anvil.yaml', 'form: styles/*.scss', 'from: styles/*.scss');

say(
  'How to go on',
  `The copy stays in ${project}: look at it in the browser, and change a file there:\n\n  cd ${project} && node ${program} serve --open\n\nThe README shows how to set up a project of your own.`,
);
process.exitCode = failed ? 1 : 0;
