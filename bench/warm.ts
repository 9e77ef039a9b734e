// The compilers alone, warm: for each message, reads and compiles one file and reports the time.
import { readFileSync } from 'node:fs';
import { dirname } from 'node:path';
import { initAsyncCompiler } from 'sass-embedded';
import ts from 'typescript';

const [module, sheet] = process.argv.slice(2) as [string, string];
const sass = await initAsyncCompiler();

process.on('message', (kind) => void compile(kind as string));

async function compile(kind: string): Promise<void> {
  const started = performance.now();
  if (kind === 'sheet')
    await sass.compileStringAsync(readFileSync(sheet, 'utf8'), {
      url: new URL(`file://${sheet}`),
      loadPaths: [dirname(sheet)],
    });
  else
    ts.transpileModule(readFileSync(module, 'utf8'), {
      fileName: module,
      compilerOptions: { target: ts.ScriptTarget.ES2022, module: ts.ModuleKind.ESNext },
    });
  process.send!(performance.now() - started);
}
