import type { StepContext } from '../../assets/context.js';
import { diagnostic } from '../../diagnostics/index.js';
import type { LinkedModule } from '../../languages/js/link/graph.js';
import type { ModuleLoader } from './module-loader.js';
import { parseJson } from './package-facts.js';

/** A copy of a package in a bundle. */
interface Copy {
  readonly folder: string;
  /** The module of another package that imports it, and the imported module; undefined for entry points. */
  readonly importer: { readonly from: LinkedModule; readonly to: LinkedModule } | undefined;
}

/** Reports packages of which a bundle contains several copies: each has its own state, and they are loaded twice. */
export function checkCopies(loader: ModuleLoader, context: StepContext): void {
  const copies = new Map<string, Map<string, Copy>>();
  for (const module of loader.modules.values()) {
    const [, folder, name] = packagePattern.exec(module.path) ?? [];
    if (folder === undefined || name === undefined) continue;
    const known = copies.get(name) ?? new Map<string, Copy>();
    copies.set(name, known);
    if (known.get(folder)?.importer) continue;
    const from = loader.importersOf(module).find((one) => !one.path.startsWith(`${folder}/`));
    known.set(folder, { folder, importer: from && { from, to: module } });
  }
  for (const [name, known] of copies) {
    if (known.size === 1) continue;
    const list = [...known.values()].sort((a, b) => (a.folder < b.folder ? -1 : 1));
    const texts = list.map(({ folder, importer }) => {
      const bytes = context.read(`${folder}/package.json`);
      const { version } = bytes ? parseJson<{ version: string }>(bytes) : {};
      const described = version === undefined ? folder : `${version} in ${folder}`;
      return importer ? `${described}, imported by ${importer.from.path}` : described;
    });
    const last = list.at(-1)!.importer;
    const request = last && [...last.from.targets].find(([, target]) => target === last.to)?.[0];
    const place = last && request ? loader.place(last.from, request.start, request.end) : undefined;
    context.report(diagnostic('link-copies', { name, copies: texts }, place));
  }
}

/** e.g. node_modules/a/node_modules/b/index.js: the folder of the innermost package, and its name. */
const packagePattern = /^((?:.*\/)?node_modules\/((?:@[^/]+\/)?[^/]+))\//;
