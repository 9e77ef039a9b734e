import { compare, parseTarget } from '../../targets/targets.js';
import { syntaxLevels } from './levels.js';

/** A level of the language by its year: 2009 for ES5, `latest` when every target knows all that can be compiled. */
export type SyntaxLevel = number | 'latest';

const years = Object.keys(syntaxLevels).map(Number);

/**
 * The newest level of the language that all target browsers know in full.
 *
 * @param browsers resolved target browsers, such as `safari 17.4`
 */
export function syntaxLevelFor(browsers: readonly string[]): SyntaxLevel {
  const targets = browsers.flatMap((browser) => parseTarget(browser) ?? []);
  const missing = years.find((year) =>
    targets.some(({ browser, version }) => {
      const first = syntaxLevels[year]?.[browser];
      return first === undefined || compare(version, first) < 0;
    }),
  );
  if (missing === undefined) return 'latest';
  return missing === years[0] ? 2009 : missing - 1;
}
