/**
 * The target of a subpath of a package, or of one of its own names: a path that starts with `./`, or for `imports` also
 * a specifier. `null` excludes the subpath; undefined if nothing matches.
 */
export type PackageTarget = string | null | undefined;

/** Thrown for targets that Node.js does not allow; lists go on to the next one. */
class InvalidTargetError extends Error {}

/**
 * The target of a subpath by the field `exports` (`PACKAGE_EXPORTS_RESOLVE`; Node.js documentation, "ESM resolution
 * algorithm").
 *
 * @param subpath e.g. `.` or `./dim`
 * @param conditions those that hold besides `default`
 */
export function exportsTarget(exports: unknown, subpath: string, conditions: ReadonlySet<string>): PackageTarget {
  const keys = isMap(exports) ? Object.keys(exports) : [];
  const paths = keys.filter((key) => key.startsWith('.'));
  if (paths.length > 0 && paths.length < keys.length) return undefined;
  const map = paths.length > 0 ? (exports as Readonly<Record<string, unknown>>) : { '.': exports };
  return valid(() =>
    subpath === '.'
      ? Object.hasOwn(map, '.')
        ? targetOf(map['.'], undefined, false, conditions)
        : undefined
      : matchingTarget(map, subpath, false, conditions),
  );
}

/**
 * The target of a package's own name, e.g. `#own`, by the field `imports` (`PACKAGE_IMPORTS_RESOLVE`).
 *
 * @param conditions those that hold besides `default`
 */
export function importsTarget(imports: unknown, name: string, conditions: ReadonlySet<string>): PackageTarget {
  if (name === '#' || name.startsWith('#/') || !isMap(imports)) return undefined;
  return valid(() => matchingTarget(imports, name, true, conditions));
}

function valid(resolve: () => PackageTarget): PackageTarget {
  try {
    return resolve();
  } catch (error) {
    if (error instanceof InvalidTargetError) return undefined;
    throw error;
  }
}

/** The target of the key, or of the most specific pattern, that matches (`PACKAGE_IMPORTS_EXPORTS_RESOLVE`). */
function matchingTarget(
  map: Readonly<Record<string, unknown>>,
  name: string,
  isImports: boolean,
  conditions: ReadonlySet<string>,
): PackageTarget {
  if (name.endsWith('/')) return undefined;
  if (Object.hasOwn(map, name) && !name.includes('*')) return targetOf(map[name], undefined, isImports, conditions);
  const patterns = Object.keys(map)
    .filter((key) => key.split('*').length === 2)
    .sort((a, b) => b.indexOf('*') - a.indexOf('*') || b.length - a.length);
  for (const pattern of patterns) {
    const [base = '', trailer = ''] = pattern.split('*');
    if (!name.startsWith(base) || name === base) continue;
    if (trailer !== '' && !(name.endsWith(trailer) && name.length >= pattern.length)) continue;
    return targetOf(map[pattern], name.slice(base.length, name.length - trailer.length), isImports, conditions);
  }
  return undefined;
}

/**
 * Resolves a target (`PACKAGE_TARGET_RESOLVE`).
 *
 * @param match what `*` of a pattern stands for; undefined without a pattern
 */
function targetOf(
  target: unknown,
  match: string | undefined,
  isImports: boolean,
  conditions: ReadonlySet<string>,
): PackageTarget {
  if (target === null) return null;
  if (typeof target === 'string') {
    const path = match === undefined ? target : target.replaceAll('*', () => match);
    const isSpecifier = isImports && !/^(#|\.{1,2}\/|\/|[a-z][a-z0-9+.-]*:)/i.test(target);
    const segments = `${target.slice(2)}/${match ?? 'x'}`.split(/[/\\]|%2f|%5c/i);
    const isInside = target.startsWith('./') && !segments.some((one) => reserved.test(one));
    if (!isSpecifier && !isInside) throw new InvalidTargetError(target);
    return path;
  }
  if (Array.isArray(target)) {
    let last: PackageTarget = null;
    for (const one of target as readonly unknown[]) {
      const found = valid(() => targetOf(one, match, isImports, conditions));
      if (found !== undefined && found !== null) return found;
      last = found;
    }
    return last;
  }
  if (!isMap(target)) throw new InvalidTargetError(String(target));
  for (const [condition, one] of Object.entries(target)) {
    if (condition !== 'default' && !conditions.has(condition)) continue;
    const found = targetOf(one, match, isImports, conditions);
    if (found !== undefined) return found;
  }
  return undefined;
}

/** Segments that lead out of a package, or into another one. */
const reserved = /^(\.{0,2}|%2e|\.%2e|%2e\.|%2e%2e|node_modules)$/i;

const isMap = (value: unknown): value is Readonly<Record<string, unknown>> =>
  typeof value === 'object' && value !== null && !Array.isArray(value);
