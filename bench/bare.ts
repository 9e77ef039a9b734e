// The compilers alone: compiles files and writes the results, nothing else. The reference of cold builds.
//   node bare.js OUT LOADPATH FILE ...
import { mkdirSync, readFileSync, writeFileSync } from 'node:fs';
import { basename, extname, join } from 'node:path';

const [out = '', loadPath = '', ...files] = process.argv.slice(2);
mkdirSync(out, { recursive: true });

const sheets = files.filter((file) => extname(file) === '.scss');
const scripts = files.filter((file) => extname(file) === '.ts');

if (sheets.length > 0) {
  const { initAsyncCompiler } = await import('sass-embedded');
  const compiler = await initAsyncCompiler();
  await Promise.all(
    sheets.map(async (file) => {
      const { css } = await compiler.compileAsync(file, {
        loadPaths: [loadPath],
        quietDeps: true,
        logger: { warn: () => undefined },
      });
      writeFileSync(join(out, basename(file).replace(/\.scss$/, '.css')), css);
    }),
  );
  await compiler.dispose();
}

if (scripts.length > 0) {
  const { default: ts } = await import('typescript');
  for (const file of scripts) {
    const { outputText } = ts.transpileModule(readFileSync(file, 'utf8'), {
      fileName: file,
      compilerOptions: { target: ts.ScriptTarget.ES2022, module: ts.ModuleKind.ESNext },
    });
    writeFileSync(join(out, basename(file).replace(/\.ts$/, '.js')), outputText);
  }
}
