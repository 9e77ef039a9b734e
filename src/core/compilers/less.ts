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

/** What the compiler says about a file that it wants. */
interface LessRequest {
  readonly paths?: readonly string[];
  /** True for files that become data, such as pictures. */
  readonly rawBuffer?: boolean;
  /** Set for plugins, which are JavaScript. */
  readonly mime?: string;
}

/**
 * Reads every file that a sheet names through the context; paths are relative to the project. Nothing else reads files, asks
 * the network, or runs code.
 *
 * @param loaded gets the paths of these files
 */
function fileManager(less: Less, context: StepContext, loaded: Set<string>): object {
  const fail = (message: string): object => ({ error: Object.assign(new Error(message), { type: 'File' }) });
  const load = (name: string, folder: string, { paths = [], rawBuffer, mime }: LessRequest): object => {
    if (mime === 'application/javascript')
      return fail(
        `the plugin '${name}' is JavaScript that a sheet would run; to use it, call the compiler with a step \`run\``,
      );
    if (/^([a-z][a-z\d+.-]*:)?[/\\]{2}/i.test(name))
      return fail(`'${name}' is not a file of the project; write '@import (css)' to leave an address to browsers`);
    for (const path of candidates(name, [folder, ...paths])) {
      const contents = rawBuffer === true ? bufferOf(context.read(path)) : importedText(path, context);
      if (contents === undefined) continue;
      loaded.add(path);
      return { filename: path, contents };
    }
    return fail(`'${name}' was not found`);
  };
  return new (class extends less.FileManager {
    supports(): boolean {
      return true;
    }

    supportsSync(): boolean {
      return true;
    }

    // Asynchronous, so that an unreadable file rejects: after an error that is thrown, the compilation never ends.
    async loadFile(...[name, folder, options]: Parameters<typeof load>): Promise<object> {
      const loaded = load(name, folder, options);
      if ('error' in loaded) throw loaded.error as Error;
      return loaded;
    }

    loadFileSync(...[name, folder, options]: Parameters<typeof load>): object {
      // Functions such as `data-uri` and `image-size` read data; they would leave the name of a missing file as it is.
      const loaded = load(name, folder, { ...options, rawBuffer: true });
      if ('error' in loaded) throw loaded.error as Error;
      return loaded;
    }
  })();
}

const bufferOf = (bytes: Uint8Array | undefined): Buffer | undefined =>
  bytes && Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength);

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
