import { posix } from 'node:path';
import { Field } from '../config/field.js';
import { choice, externals, globalName, textList, writtenFolder } from '../config/value-types.js';
import { kindOf, withExtension } from '../languages/formats.js';
import type { Step } from './step.js';

/** Options of `link`. */
export class LinkOptions {
  @Field(choice('module', 'script'), {
    doc: 'The form of linked entry points: ES modules, or classic scripts without any shared files.',
    default: '`module`',
  })
  as?: 'module' | 'script';

  @Field(globalName, { doc: 'A global variable that gets the exports of a classic script.', default: 'none' })
  global?: string;

  @Field(externals, {
    doc: 'Import specifiers that are not linked: a list of those that stay imports, or a map from specifiers to the global variables that hold their exports. `name/*` stands for all subpaths of a package, `node:*` for all modules of Node.js, and `*` for both and all packages; in lists, `!name` is an exception.',
    default: 'none',
  })
  external?: string | readonly string[] | Readonly<Record<string, string>>;

  @Field(textList('conditions', 'a condition or a list of conditions'), {
    doc: 'Conditions of `exports` and `imports` of packages, besides `browser`, `module`, `import` or `require`, and `development` or `production`.',
    default: 'none',
  })
  conditions?: string | readonly string[];

  @Field(writtenFolder, {
    doc: 'The folder, relative to `to`, of files that several entry points share, that are loaded by `import()`, or that `new URL(…, import.meta.url)` or `url()` refers to.',
    default: '`shared`',
  })
  shared?: string;

  @Field(choice('keep', 'remove'), {
    doc: 'Whether to keep code that nothing uses: exports, and modules of packages without side effects.',
    default: '`keep` if `process.env.NODE_ENV` is `"development"`, otherwise `remove`',
  })
  unused?: 'keep' | 'remove';
}

const defaultFolder = 'shared';

/** Links each script and style sheet with what it imports, and writes one file per entry point. */
export const link: Step<LinkOptions> = {
  name: 'link',
  doc: 'Follows the imports of scripts and style sheets, and links each entry point with what it imports into one file.',
  version: 29,
  options: LinkOptions,
  gathers: () => true,
  loads: true,
  tracksConstants: true,
  settings: (path) => (isScript(path) ? ['constants', 'environment', 'maps'] : ['environment', 'maps']),
  // Scripts import sheets.
  toolVersions: (path) => (isScript(path) ? ['acorn', 'css-tree'] : ['css-tree']),
  runsInProcess: () => true,
  externals: ({ external }) => [...externalMap(external).keys()],
  claims: (paths, { shared = defaultFolder }) => [
    ...paths.map(linkedPath),
    ...paths.filter(isScript).map(sheetClaim),
    ...(paths.some((path) => kindOf(path) !== 'other') ? [{ within: shared, pattern: '*' }] : []),
  ],
  async run(assets, options, context) {
    const { shared = defaultFolder, as = 'module', global, unused, external, conditions } = options;
    const { environment } = context.settings;
    const { linkAssets } = await import('./work/link.js');
    const settings = {
      folder: shared,
      as,
      global,
      removesUnused: (unused ?? (environment === 'development' ? 'keep' : 'remove')) === 'remove',
      conditions: [environment, ...[conditions ?? []].flat()],
      externals: externalMap(external),
    };
    return linkAssets(assets, linkedPath, settings, context);
  },
};

const isScript = (path: string): boolean => kindOf(path) === 'script';

/** The path of a linked entry point. */
const linkedPath = (path: string): string => (path.endsWith('.cjs') ? withExtension(path, 'js') : path);

/** The style sheet of an entry point. It only exists if modules import sheets, so that its path is not claimed as such. */
const sheetClaim = (path: string): { within: string; pattern: string } => ({
  within: posix.dirname(path),
  pattern: `${posix.parse(path).name.replace(/[^\w.-]/g, '?')}*.css`,
});

/** The global variables by specifier, or undefined for specifiers that stay imports. */
function externalMap(external: LinkOptions['external']): ReadonlyMap<string, string | undefined> {
  if (typeof external === 'string') return new Map([[external, undefined]]);
  if (isList(external)) return new Map(external.map((one) => [one, undefined]));
  return new Map(Object.entries(external ?? {}));
}

const isList = (external: LinkOptions['external']): external is readonly string[] => Array.isArray(external);
