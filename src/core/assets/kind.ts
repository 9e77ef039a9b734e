/** The kinds of asset that steps tell apart. */
export type AssetKind = 'style' | 'script' | 'other';

const kinds: Readonly<Record<string, AssetKind>> = { css: 'style', js: 'script', mjs: 'script', cjs: 'script' };

/** The kind of an asset, by its extension. */
export function kindOf(path: string): AssetKind {
  return kinds[extensionOf(path)] ?? 'other';
}

/** The extension of a path in lower case, without its dot; empty when it has none. */
export function extensionOf(path: string): string {
  return /[^/]\.([^./]+)$/.exec(path)?.[1]?.toLowerCase() ?? '';
}

/** A path with another extension. */
export function withExtension(path: string, extension: string): string {
  return path.replace(/\.[^./]+$/, `.${extension}`);
}
