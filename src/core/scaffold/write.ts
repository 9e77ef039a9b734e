import { stringify } from 'yaml';
import type { ProposedPipeline } from './pipelines.js';

/** The maximum number of globs in one line. */
const inlineGlobs = 2;

/** The text of a project file, with a comment on the purpose of each pipeline. */
export function writeProject(
  pipelines: readonly ProposedPipeline[],
  output: string,
  browsers: readonly string[],
): string {
  const scalar = (text: string): string => stringify(text).trimEnd();
  const list = (items: readonly string[]): string =>
    items.length === 1 ? scalar(items[0]!) : `[${items.map((item) => JSON.stringify(item)).join(', ')}]`;
  const stepOf = (step: string): string => (step === 'minify' ? '{ minify: { only: production } }' : step);
  const lines = [
    '# yaml-language-server: $schema=./anvil.schema.json',
    '',
    `browsers: ${browsers.length > 0 ? `${list(browsers)} # from package.json` : 'defaults'}`,
    '',
    'profiles:',
    '  development: { maps: file } # for `serve` and `watch`: source maps',
    '  production: { maps: none } # for `build`; with `names: hashed`, browsers can keep files for a year',
    '',
    'pipelines:',
    ...pipelines.flatMap(({ name, note, from, base, steps, to }, index) => [
      ...(index > 0 ? [''] : []),
      `  # ${note}`,
      `  ${name}:`,
      ...(from.length > inlineGlobs
        ? ['    from:', ...from.map((glob) => `      - ${scalar(glob)}`)]
        : [`    from: ${list(from)}`]),
      ...(base === undefined ? [] : [`    base: ${scalar(base)}`]),
      ...(steps.length > 0 ? [`    steps: [${steps.map(stepOf).join(', ')}]`] : []),
      ...(to === undefined ? [] : [`    to: ${scalar(to)}`]),
    ]),
    '',
    'serve:',
    `  folder: ${scalar(output)}`,
  ];
  return `${lines.join('\n')}\n`;
}
