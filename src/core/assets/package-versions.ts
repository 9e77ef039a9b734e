import { readFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ownManifest } from './own-manifest.js';
import { sassPackageNames } from './sass-package.js';

/** Packages whose versions affect the results of steps and plans. */
const packages = [
  '@jsquash/oxipng',
  'acorn',
  'browserslist',
  'caniuse-lite',
  'css-tree',
  'liquidjs',
  'parse5',
  'typescript',
] as const;

/** A package that results depend on. */
export type ToolName = (typeof packages)[number] | 'loyal-anvil' | 'sass';

/** The versions of this package and of those it works with. */
export type ToolVersions = Readonly<Record<ToolName, string>>;

const here = dirname(fileURLToPath(import.meta.url));
let known: ToolVersions | undefined;

/** Reads the installed versions, once a process. */
export function toolVersions(): ToolVersions {
  known ??= Object.fromEntries([
    ['loyal-anvil', ownManifest().version],
    ...packages.map((name) => [name, versionOf(name)]),
    [
      'sass',
      sassPackageNames()
        .map(versionOf)
        .find((version) => version !== '') ?? '',
    ],
  ]) as ToolVersions;
  return known;
}

/** The version of a package as this one finds it: in the nearest `node_modules` upwards that has it. */
function versionOf(name: string): string {
  for (let folder = here; ; folder = dirname(folder)) {
    const version = versionAt(join(folder, 'node_modules', name));
    if (version !== '' || folder === dirname(folder)) return version;
  }
}

function versionAt(folder: string): string {
  try {
    return (JSON.parse(readFileSync(join(folder, 'package.json'), 'utf8')) as { version: string }).version;
  } catch {
    return '';
  }
}
