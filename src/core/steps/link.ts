import { Field } from '../config/field.js';
import { choice, writtenFolder } from '../config/value-types.js';
import { kindOf, withExtension } from '../languages/formats.js';
import type { Step } from './step.js';

/** Options of `link`. */
export class LinkOptions {
  @Field(writtenFolder, {
    doc: 'The folder, relative to `to`, of files that several entry points share or that are loaded by `import()`.',
    default: '`shared`',
  })
  shared?: string;

  @Field(choice('keep', 'remove'), {
    doc: 'Whether code that nothing uses is left out: exports, and modules of packages that have no side effects.',
    default: '`keep` if `process.env.NODE_ENV` is `"development"`, otherwise `remove`',
  })
  unused?: 'keep' | 'remove';
}

const defaultFolder = 'shared';

/** Links each script with the modules that it imports, and writes one file per entry point. */
export const link: Step<LinkOptions> = {
  name: 'link',
  doc: 'Follows the imports of scripts, and links each entry point and its modules into one file.',
  version: 1,
  options: LinkOptions,
  isAggregate: true,
  loads: true,
  settings: () => ['constants', 'maps'],
  toolVersions: () => ['acorn'],
  runsInProcess: () => true,
  claims: (paths, { shared = defaultFolder }) =>
    paths.some(isScript) ? [...paths.map(linkedPath), { within: shared, pattern: '*.js' }] : paths,
  async run(assets, { shared = defaultFolder, unused }, context) {
    const isDevelopment = context.settings.constants['process.env.NODE_ENV'] === 'development';
    const { linkAssets } = await import('./work/link.js');
    const linked = await linkAssets(
      assets.filter(({ path }) => isScript(path)),
      linkedPath,
      shared,
      (unused ?? (isDevelopment ? 'keep' : 'remove')) === 'remove',
      context,
    );
    return [...assets.filter(({ path }) => !isScript(path)), ...linked];
  },
};

const isScript = (path: string): boolean => kindOf(path) === 'script';

/** The path of a linked entry point, which is an ES module. */
const linkedPath = (path: string): string => (path.endsWith('.cjs') ? withExtension(path, 'js') : path);
