import { createRequire } from 'node:module';

const require = createRequire(import.meta.url);

/** The executables of the Sass compiler in its packages. */
const startFiles = ['dart-sass/src/dart', 'dart-sass/src/dart.exe', 'dart-sass/sass', 'dart-sass/sass.bat'];

/**
 * The packages that may contain the Sass compiler for this system. There is one for each system and C library, and the
 * package manager installs the matching one.
 */
export function sassPackageNames(): readonly string[] {
  const { platform, arch } = process;
  if (platform !== 'linux') return [`sass-embedded-${platform}-${arch}`];
  return [`sass-embedded-linux-${arch}`, `sass-embedded-linux-musl-${arch}`];
}

/**
 * Finds the executable of the Sass compiler.
 *
 * @returns an absolute path; undefined if no package for this system is installed
 */
export function sassStartFile(): string | undefined {
  const names = sassPackageNames().filter((name) => resolved(`${name}/package.json`) !== undefined);
  // Where a package manager has installed both, the C library that this program runs on decides.
  if (names.length > 1 && !hasGlibc()) names.reverse();
  const files = names.flatMap((name) => startFiles.map((file) => resolved(`${name}/${file}`)));
  return files.find((file) => file !== undefined);
}

function hasGlibc(): boolean {
  const { header } = process.report.getReport() as { header: { glibcVersionRuntime?: string } };
  return header.glibcVersionRuntime !== undefined;
}

function resolved(path: string): string | undefined {
  try {
    return require.resolve(path);
  } catch {
    return undefined;
  }
}
