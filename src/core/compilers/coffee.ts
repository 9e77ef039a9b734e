import { diagnostic, DiagnosticError, type Diagnostic } from '../diagnostics/index.js';
import { parsesAt } from '../languages/js/parse.js';
import { readMap } from '../languages/source-maps/index.js';
import { sourceName, textOf, withComposedMap } from '../assets/asset.js';
import { withExtension } from '../languages/formats.js';
import { projectPackage } from '../templates/project-package.js';
import type { Compile } from './compiler.js';
import { compileScript } from './typescript.js';

/** Compiles CoffeeScript by the package that the project has installed, and the result for the target browsers. */
export const compileCoffee: Compile = async (asset, path, options, context) => {
  const file = asset.origins[0] ?? asset.path;
  const coffee = await projectPackage<Coffee>('coffeescript', file, context);
  const text = textOf(asset);
  const { js, v3SourceMap } = attempt(
    () => coffee.compile(text, { bare: true, sourceMap: true, filename: file }),
    (message, at) => {
      // Without a location, it is the end.
      const end = text.trimEnd().length;
      const place = at ? { file, text, range: rangeOf(at) } : { file, text, offsets: [end, end + 1] as const };
      return diagnostic('compiler', { language: 'CoffeeScript', message }, place);
    },
  );
  const map = context.settings.maps ? readMap(v3SourceMap, () => sourceName(asset)) : undefined;
  if (map) map.sourcesContent = [text];
  // Elements stay as they are: the next compiler reads them as JSX.
  const extension = parsesAt(js, 2025) ? 'js' : 'jsx';
  const script = withComposedMap(asset, js, map, withExtension(asset.path, extension));
  return compileScript(script, path, options, context);
};

/** The part of the package that is used. */
interface Coffee {
  compile(text: string, options: object): { readonly js: string; readonly v3SourceMap: string };
}

/** A location of the compiler, from 0. */
interface Location {
  readonly first_line: number;
  readonly first_column: number;
  readonly last_line: number;
  readonly last_column: number;
}

const rangeOf = (at: Location): { start: Point; end: Point } => ({
  start: { line: at.first_line + 1, column: at.first_column + 1 },
  end: { line: at.last_line + 1, column: at.last_column + 2 },
});

interface Point {
  readonly line: number;
  readonly column: number;
}

function attempt<T>(work: () => T, describe: (message: string, at: Location | undefined) => Diagnostic): T {
  try {
    return work();
  } catch (error) {
    const { message, location } = error as Error & { readonly location?: Location };
    throw new DiagnosticError(describe(message, location));
  }
}
