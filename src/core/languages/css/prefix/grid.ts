import type { CssNodePlain } from 'css-tree';
import { isSlash } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';
import type { OlderDeclaration } from './flexbox.js';
import type { BrowserSpans } from './table.js';

/** The browsers that only support the grid layout draft of 2011. */
export const olderGridBrowsers: BrowserSpans = { ie: [['10', null]], edge: [['12', '16']] };

/**
 * Converts a grid declaration to the draft of 7 April 2011, which two browsers support with the prefix `-ms-`. They do
 * not place items automatically and support neither areas nor named lines, so that all items have to be placed
 * explicitly.
 */
export function olderGrid(property: string, value: readonly CssNodePlain[]): OlderDeclaration[] {
  const text = printComponents(value, printComponent);
  switch (property) {
    case 'display': {
      const grid = { grid: '-ms-grid', 'inline-grid': '-ms-inline-grid' }[text.toLowerCase()];
      return grid === undefined ? [] : [{ property, value: grid }];
    }
    case 'grid-template-columns':
    case 'grid-template-rows': {
      const tracks = olderTracks(value);
      return tracks === undefined ? [] : [{ property: property.replace('grid-template', '-ms-grid'), value: tracks }];
    }
    case 'grid-template': {
      const [rows, columns, ...more] = text === 'none' ? [] : splitAtSlashes(value);
      if (!rows || !columns || more.length > 0) return [];
      return [...olderGrid('grid-template-rows', sizesIn(rows)), ...olderGrid('grid-template-columns', columns)];
    }
    case 'grid-area': {
      const [row, column, rowEnd, columnEnd] = splitAtSlashes(value);
      const slash: CssNodePlain = { type: 'Operator', value: '/' };
      const along = (from?: CssNodePlain[], to?: CssNodePlain[]): CssNodePlain[] =>
        from && to ? [...from, slash, ...to] : (from ?? []);
      return [...lines('grid-row', along(row, rowEnd)), ...lines('grid-column', along(column, columnEnd))];
    }
    case 'grid-row':
    case 'grid-column':
      return lines(property, value);
    case 'grid-row-start':
    case 'grid-column-start':
      return /^\d+$/.test(text) ? [{ property: `-ms-${property.replace('-start', '')}`, value: text }] : [];
    case 'align-self':
    case 'justify-self': {
      const axis = property === 'align-self' ? '-ms-grid-row-align' : '-ms-grid-column-align';
      const word = { start: 'start', end: 'end', center: 'center', stretch: 'stretch' }[text.toLowerCase()];
      return word === undefined ? [] : [{ property: axis, value: word }];
    }
    default:
      return [];
  }
}

function splitAtSlashes(nodes: readonly CssNodePlain[]): CssNodePlain[][] {
  const parts: CssNodePlain[][] = [[]];
  for (const node of nodes)
    if (isSlash(node)) parts.push([]);
    else parts.at(-1)!.push(node);
  return parts;
}

/** The row sizes of a template with named areas: each string is a row, `auto` unless a size follows. */
function sizesIn(rows: readonly CssNodePlain[]): CssNodePlain[] {
  if (!rows.some(({ type }) => type === 'String')) return [...rows];
  return rows.flatMap((node, at) => {
    if (node.type !== 'String') return [node];
    const next = rows[at + 1];
    return next && next.type !== 'String' ? [] : [{ type: 'Identifier', name: 'auto' } as const];
  });
}

/** Converts tracks, with `repeat(3, 1fr)` as `(1fr)[3]`; undefined if they were not supported yet. */
function olderTracks(nodes: readonly CssNodePlain[]): string | undefined {
  const tracks = nodes.map((node) => {
    if (node.type === 'Brackets' || node.type === 'String') return undefined;
    if (node.type !== 'Function' || node.name.toLowerCase() !== 'repeat') return printComponent(node);
    const [count, , ...inner] = node.children;
    const text = olderTracks(inner);
    return count?.type === 'Number' && text !== undefined ? `(${text})[${count.value}]` : undefined;
  });
  return tracks.includes(undefined) ? undefined : tracks.join(' ');
}

/** Converts a grid area from one line to another to a line and a number of tracks. */
function lines(property: string, value: readonly CssNodePlain[]): OlderDeclaration[] {
  const [, from, span, to] =
    /^(\d+)(?:\s*\/\s*(?:(span\s*)?(\d+)))?$/
      .exec(printComponents(value, printComponent))
      ?.map((part) => part as string | undefined) ?? [];
  if (from === undefined) return [];
  const count = to === undefined ? 1 : span === undefined ? Number(to) - Number(from) : Number(to);
  if (count < 1) return [];
  const start = { property: `-ms-${property}`, value: from };
  return count === 1 ? [start] : [start, { property: `-ms-${property}-span`, value: String(count) }];
}
