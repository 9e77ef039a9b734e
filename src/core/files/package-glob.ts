/** A glob of files of an installed package. */
export interface PackageGlob {
  readonly name: string;
  /** Relative to the folder of the package. */
  readonly glob: string;
}

const scheme = 'pkg:';

/** The names that packages can have, as in package.json. */
const packageName = String.raw`(?:@[a-z\d~-][\w.~-]*/)?[a-z\d~-][\w.~-]*`;
const form = new RegExp(`^${packageName}/`, 'i');

/** Reports whether a glob is meant as one of files of a package. */
export const isPackageGlob = (glob: string): boolean => glob.startsWith(scheme);

/**
 * The parts of a glob of files of a package; undefined if it has another form.
 * @example parsePackageGlob('pkg:@fernlight/type/files/*.woff2') // { name: '@fernlight/type', glob: 'files/*.woff2' }
 */
export function parsePackageGlob(text: string): PackageGlob | undefined {
  if (!isPackageGlob(text)) return undefined;
  const [found] = form.exec(text.slice(scheme.length)) ?? [];
  if (found === undefined) return undefined;
  const glob = text.slice(scheme.length + found.length);
  return glob === '' ? undefined : { name: found.slice(0, -1), glob };
}

/** A glob of files of a package as text. */
export const packageGlob = ({ name, glob }: PackageGlob): string => `${scheme}${name}/${glob}`;
