import browserslist from 'browserslist';

/** A format for pictures that not all browsers show. */
export type ModernFormat = 'avif' | 'webp';

/**
 * Reports whether all of some browsers show pictures in a format.
 *
 * @param browsers resolved, such as `safari 17.4`
 */
export function isShownByAll(format: ModernFormat, browsers: readonly string[]): boolean {
  const able = new Set(browserslist(`fully supports ${format}`, { path: false as never }));
  return browsers.every((browser) => able.has(browser));
}
