import { spawnSync } from 'node:child_process';
import { gzipSync } from 'node:zlib';
import { parse as parseScript } from 'acorn';
import { generate, parse as parseStyle } from 'css-tree';
import { minifyScript, minifyStyle, prefixStyle } from 'loyal-anvil';
import type { Corpus, CorpusFile } from '../corpus.js';
import { inTurns, ratiosOf, type Row } from '../measure.js';
import { publishedSizes } from './published.js';

/** Browsers that need many prefixes. */
const browsers = 'safari 9, chrome 40, firefox 40';

/** Measures the time of minifying relative to parsing, and the sizes relative to the published files. */
export async function minifying(corpus: Corpus): Promise<Row[]> {
  const rows: Row[] = [];
  const scripts = corpus.scripts.map((file) => ({ file, text: corpus.read(file) }));
  const styles = corpus.styles.map((file) => ({ file, text: corpus.read(file) }));
  if (styles.length > 0) {
    const times = await inTurns(
      9,
      () => styles.map(({ text }) => minifyStyle(text)),
      () => styles.map(({ text }) => generate(parseStyle(text))),
    );
    rows.push({ what: 'minifying all sheets', reference: 'parse and generate', bar: 3, ...ratiosOf(times) });
    const prefixed = await inTurns(
      9,
      () => styles.map(({ text }) => prefixStyle(text, { browsers })),
      () => styles.map(({ text }) => generate(parseStyle(text))),
    );
    rows.push({
      what: `prefixing all sheets for ${browsers}`,
      reference: 'parse and generate',
      bar: 2,
      ...ratiosOf(prefixed),
    });
  }
  if (scripts.length > 0) {
    const times = await inTurns(
      9,
      () => scripts.map(({ text }) => minifyScript(text)),
      () => scripts.map(({ text }) => parseScript(text, { ecmaVersion: 'latest', sourceType: sourceType(text) })),
    );
    rows.push({ what: 'minifying all scripts', reference: 'parsing alone', bar: 8, ...ratiosOf(times) });
  }
  if (scripts.length > 0) rows.push(...largeScript(scripts.map(({ text }) => text)));
  rows.push(
    ...growing(),
    ...sizes(styles, (text) => minifyStyle(text).text, 'sheets'),
    ...sizes(scripts, (text) => minifyScript(text).text, 'scripts'),
    ...publishedSizes(),
  );
  return rows;
}

const sourceType = (text: string): 'module' | 'script' => (/^(import|export)\b/m.test(text) ? 'module' : 'script');

function sizes(
  files: readonly { file: CorpusFile; text: string }[],
  minify: (text: string) => string,
  kind: string,
): Row[] {
  if (files.length === 0) return [];
  const measured = files.map(({ file, text }) => {
    const small = minify(text);
    const gzip = gzipSync(small, { level: 9 }).length;
    return {
      name: file.package,
      raw: Buffer.byteLength(small) / file.publishedBytes,
      gzip: gzip / file.publishedGzipBytes,
      again: small.length / minify(small).length,
    };
  });
  const detail = (key: 'raw' | 'gzip'): string =>
    measured.map((one) => `${one.name} ${one[key].toFixed(3)}`).join(', ');
  const worst = (key: 'raw' | 'gzip'): number => Math.max(...measured.map((one) => one[key]));
  const largest = kind === 'sheets' ? 1.01 : 1.02;
  const single = (kind === 'sheets' ? (['raw', 'gzip'] as const) : (['gzip'] as const)).map((key) => ({
    what: `size of ${kind}, ${key}, the largest of all`,
    reference: 'the published file',
    ratios: [worst(key)],
    bar: largest,
  }));
  const means = (['raw', 'gzip'] as const).map((key) => ({
    what: `size of ${kind}, ${key}, geometric mean`,
    reference: 'the published file',
    ratios: [Math.exp(measured.reduce((sum, one) => sum + Math.log(one[key]), 0) / measured.length)],
    bar: 1,
    note: detail(key),
  }));
  const again: Row = {
    what: `size of ${kind} that were minified once, the largest of all`,
    reference: 'minified a second time',
    ratios: [Math.max(...measured.map((one) => one.again))],
    bar: kind === 'sheets' ? 1 : 1.005,
  };
  return [...means, ...single, again];
}

/** The maximum size of a script that is measured, in bytes. */
const large = 5_000_000;

/** A program that minifies a script, and reports its time and peak memory. */
const minifyOnce = `
  import { readFileSync } from 'node:fs';
  import { minifyScript } from ${JSON.stringify(new URL('../../../dist/index.js', import.meta.url).href)};
  const text = readFileSync(0, 'utf8');
  const start = performance.now();
  const { text: small, diagnostics } = minifyScript(text);
  if (diagnostics.length > 0) throw new Error(diagnostics[0].message);
  console.log(JSON.stringify({ ms: performance.now() - start, small: small.length, bytes: process.resourceUsage().maxRSS * 1024 }));
`;

/** A script of five megabytes relative to a quarter of it, each in its own process. */
function largeScript(texts: readonly string[]): Row[] {
  const measure = (size: number): { ms: number; bytes: number; small: number } => {
    let input = '';
    for (let at = 0; input.length < size; at++) input += `(function () {${texts[at % texts.length]!}\n})();\n`;
    const child = spawnSync(process.execPath, ['--input-type=module', '-e', minifyOnce], { input, encoding: 'utf8' });
    if (child.status !== 0) throw new Error(child.stderr);
    return JSON.parse(child.stdout) as { ms: number; bytes: number; small: number };
  };
  const [few, many] = [measure(large / 4), measure(large)];
  const megabytes = (bytes: number): string => `${(bytes / 1e6).toFixed(0)} MB`;
  return [
    {
      what: 'minifying a script of 5 MB',
      reference: 'a quarter of it',
      ratios: [many.ms / few.ms],
      bar: 6,
      note: `${(many.ms / 1000).toFixed(1)} s beside ${(few.ms / 1000).toFixed(1)} s; at most ${megabytes(many.bytes)} of memory beside ${megabytes(few.bytes)}`,
    },
  ];
}

/** Fifty thousand rules relative to a quarter of them: linear time would be a ratio of four. */
function growing(): Row[] {
  const kinds: Readonly<Record<string, (number: number) => string>> = {
    'all different': (number) =>
      `.a${String(number)}{color:#${number.toString(16).padStart(6, '0')};margin:${String(number % 7)}px}`,
    'recurring blocks': (number) =>
      `.a${String(number)}{color:#${(number % 4096).toString(16).padStart(3, '0')};margin:${String(number % 4096)}px}`,
    'one block': (number) => `.a${String(number)}{color:red}`,
    'two selectors in turns': (number) =>
      `.${'ab'[number % 2]!}{color:#${(number % 4096).toString(16).padStart(3, '0')}}`,
    'one selector among others': (number) => `.a{--x${String(number)}:1}.b${String(number)}{top:0}`,
    'media queries in turns': (number) =>
      `@media (min-width:${String(number % 5)}px){.a${String(number)}{color:${number % 2 ? 'red' : 'tan'}}}`,
  };
  return Object.entries(kinds).map(([kind, rule]) => {
    const sheet = (rules: number): string => Array.from({ length: rules }, (_, number) => rule(number)).join('\n');
    const [few, many] = [sheet(12_500), sheet(50_000)];
    const timed = (text: string): number => {
      const start = performance.now();
      minifyStyle(text);
      return performance.now() - start;
    };
    timed(few);
    return {
      what: `minifying 50,000 rules, ${kind}`,
      reference: 'a quarter of them',
      ratios: [1, 2, 3].map(() => timed(many) / timed(few)),
      bar: 6,
    };
  });
}
