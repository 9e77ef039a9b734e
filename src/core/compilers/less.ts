import { posix } from 'node:path';
import { diagnostic, DiagnosticError, type Place } from '../diagnostics/index.js';
import { decodeText } from '../files/text.js';
import { readMap } from '../languages/source-maps/index.js';
import { importedText } from '../assets/imported-text.js';
import { textOf, withMap, withPackageFiles } from '../assets/asset.js';
import type { StepContext } from '../assets/context.js';
import { projectPackage } from '../templates/project-package.js';
import type { Compile } from './compiler.js';

/** Compiles a Less sheet by the package that the project has installed. */
export const compileLess: Compile = async (asset, path, { loadPaths }, context) => {
  const file = asset.origins[0] ?? asset.path;
  const less = await projectPackage<Less>('less', file, context);
  const text = textOf(asset);
  const loaded = new Set<string>();
  try {
    const { css, map } = await less.render(text, {
      filename: file,
      paths: loadPaths,
      math: 'parens-division',
      plugins: [{ install: (_, manager) => manager.addFileManager(fileManager(less, context, loaded)) }],
      ...(context.settings.maps && {
        sourceMap: { outputSourceFiles: true, disableSourcemapAnnotation: true, sourceMapBasepath: '' },
      }),
    });
    const made = withMap(asset, css, map === undefined ? undefined : readMap(map, (source) => source), path);
    return withPackageFiles(made, loaded);
  } catch (error) {
    const { message, filename, line, column = 0 } = error as LessFailure;
    if (line === undefined || line === null) throw withoutPlace(message, file);
    const place = placeIn(filename === file ? text : undefined, filename ?? file, line, column + 1, context);
    throw new DiagnosticError(
      diagnostic('compiler', { language: 'Less', message: message.replace(/\.?$/, '.') }, place),
    );
  }
};

/** The part of the package that is used. */
interface Less {
  render(text: string, options: LessOptions): Promise<{ css: string; map?: string }>;
  readonly FileManager: new () => object;
}

interface LessOptions {
  readonly filename: string;
  readonly paths: readonly string[];
  readonly math: string;
  readonly plugins: readonly LessPlugin[];
  readonly sourceMap?: object;
}

interface LessPlugin {
  install(less: unknown, manager: { addFileManager(manager: object): void }): void;
}

/** An error of the compiler; columns begin at 0. */
interface LessFailure {
  readonly message: string;
  readonly filename?: string;
  readonly line?: number | null;
  readonly column?: number;
}

/**
 * Reads imported files through the context; paths are relative to the project.
 *
 * @param loaded gets the paths of these files
 */
function fileManager(less: Less, context: StepContext, loaded: Set<string>): object {
  const load = (name: string, folder: string, { paths = [] }: { readonly paths?: readonly string[] }): object => {
    for (const path of candidates(name, [folder, ...paths])) {
      const contents = importedText(path, context);
      if (contents === undefined) continue;
      loaded.add(path);
      return { filename: path, contents };
    }
    const error = new Error(`'${name}' was not found`);
    return { error: Object.assign(error, { type: 'File' }) };
  };
  const isOurs = (name: string): boolean => !/^([a-z]+:)?\/\//i.test(name);
  return new (class extends less.FileManager {
    supports(name: string): boolean {
      return isOurs(name);
    }

    supportsSync(name: string): boolean {
      return isOurs(name);
    }

    loadFile(...[name, folder, options]: Parameters<typeof load>): Promise<object> {
      const loaded = load(name, folder, options);
      return 'error' in loaded ? Promise.reject(loaded.error as Error) : Promise.resolve(loaded);
    }

    loadFileSync(...[name, folder, options]: Parameters<typeof load>): object {
      return load(name, folder, options);
    }
  })();
}

/** The files that an import may mean, in order: in some folders, and in packages. */
function candidates(name: string, folders: readonly string[]): string[] {
  const names = /\.(less|css|js)$|[?#]/.test(name) ? [name] : [`${name}.less`, name];
  const inFolders = folders.flatMap((folder) => names.map((one) => posix.normalize(posix.join(folder, one))));
  const inPackages = names.map((one) => posix.join('node_modules', one));
  return [...inFolders, ...(/^[.~/]/.test(name) ? [] : inPackages)].filter((path) => !path.startsWith('../'));
}

function placeIn(text: string | undefined, file: string, line: number, column: number, context: StepContext): Place {
  const start = { line, column };
  const bytes = text === undefined ? context.read(file) : undefined;
  const whole = text ?? (bytes && decodeText(bytes, file));
  return { file, text: whole, range: { start, end: start } };
}

const withoutPlace = (message: string, file: string): DiagnosticError =>
  new DiagnosticError(diagnostic('compiler', { language: 'Less', message }, { file }));
