import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import { parse, type Comment } from 'acorn';
import { minifyScript, minifyStyle } from 'loyal-anvil';
import { clone } from '../corpus.js';
import type { Row } from '../measure.js';
import { installPackages } from '../packages.js';

/**
 * More public packages with minified files by their authors. Packages are left out if the published file was built from
 * other sources (without error messages or documentation) or has renamed properties.
 */
const packages: readonly (readonly [name: string, source: string, published: string])[] = [
  ['rxjs@6.6.7', 'bundles/rxjs.umd.js', 'bundles/rxjs.umd.min.js'],
  ['fuse.js@6.6.2', 'dist/fuse.js', 'dist/fuse.min.js'],
  ['hogan.js@3.0.2', 'dist/hogan-3.0.2.js', 'dist/hogan-3.0.2.min.js'],
  ['ajv@6.15.0', 'dist/ajv.bundle.js', 'dist/ajv.min.js'],
  ['lunr@2.3.9', 'lunr.js', 'lunr.min.js'],
  ['moment@2.31.0', 'moment.js', 'min/moment.min.js'],
  ['flatpickr@4.6.13', 'dist/flatpickr.js', 'dist/flatpickr.min.js'],
  ['flatpickr@4.6.13', 'dist/flatpickr.css', 'dist/flatpickr.min.css'],
  ['jquery@3.8.0', 'dist/jquery.js', 'dist/jquery.min.js'],
  ['d3@5.16.0', 'dist/d3.js', 'dist/d3.min.js'],
  ['handlebars@4.7.10', 'dist/handlebars.js', 'dist/handlebars.min.js'],
  ['bootstrap@5.3.9', 'dist/js/bootstrap.js', 'dist/js/bootstrap.min.js'],
  ['bootstrap@5.3.9', 'dist/css/bootstrap.css', 'dist/css/bootstrap.min.css'],
  ['bootstrap@5.3.9', 'dist/css/bootstrap-grid.css', 'dist/css/bootstrap-grid.min.css'],
  ['tom-select@2.6.2', 'dist/js/tom-select.complete.js', 'dist/js/tom-select.complete.min.js'],
  ['tom-select@2.6.2', 'dist/css/tom-select.css', 'dist/css/tom-select.min.css'],
  ['summernote@0.9.1', 'dist/summernote.js', 'dist/summernote.min.js'],
  ['summernote@0.9.1', 'dist/summernote-lite.css', 'dist/summernote-lite.min.css'],
  ['milligram@1.4.1', 'dist/milligram.css', 'dist/milligram.min.css'],
  ['font-awesome@4.7.0', 'css/font-awesome.css', 'css/font-awesome.min.css'],
  ['hover.css@2.3.2', 'css/hover.css', 'css/hover-min.css'],
];

const folder = join(clone, 'bench/.published');

/** Compares sizes with those of published files, both without comments, since each preserves other licences. */
export function publishedSizes(): Row[] {
  installPackages(folder, [...new Set(packages.map(([name]) => name))]);
  return ['.js', '.css'].flatMap((ending): Row[] => {
    const ratios = packages
      .filter(([, source]) => source.endsWith(ending))
      .map(([name, source, published]) => {
        const [ours, theirs] = [source, published].map((path) =>
          readFileSync(join(folder, 'node_modules', name.split('@')[0]!, path), 'utf8'),
        ) as [string, string];
        const small = ending === '.js' ? minifyScript(ours).text : minifyStyle(ours).text;
        return [`${name} ${source.split('/').at(-1)!}`, gzipped(small, ending) / gzipped(theirs, ending)] as const;
      });
    const mean = Math.exp(ratios.reduce((sum, [, ratio]) => sum + Math.log(ratio), 0) / ratios.length);
    const what = `size of ${String(ratios.length)} more ${ending === '.js' ? 'scripts' : 'sheets'}, gzip`;
    const reference = 'the published file, without comments';
    const note = ratios.map(([name, ratio]) => `${name} ${ratio.toFixed(3)}`).join(', ');
    return [
      { what: `${what}, geometric mean`, reference, ratios: [mean], bar: 1, note },
      {
        what: `${what}, the largest of all`,
        reference,
        ratios: [Math.max(...ratios.map(([, ratio]) => ratio))],
        bar: 1.02,
      },
    ];
  });
}

function gzipped(text: string, ending: string): number {
  const bare = ending === '.js' ? withoutComments(text) : text.replaceAll(/\/\*[^]*?\*\//g, '');
  return gzipSync(bare.trim(), { level: 9 }).length;
}

function withoutComments(text: string): string {
  const comments: Comment[] = [];
  parse(text, { ecmaVersion: 'latest', onComment: comments });
  return comments.reduceRight((left, { start, end }) => left.slice(0, start) + left.slice(end), text);
}
