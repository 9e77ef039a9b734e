import type { AtrulePlain, CssNodePlain } from 'css-tree';
import type { CopiedText } from '../../source-maps/index.js';
import type { PrefixNeeds } from './needs.js';
import { vendorOf } from './needs.js';

/** A text to insert at an offset. */
export interface Insertion {
  readonly at: number;
  readonly text: string;
}

/**
 * Finds insertions into the prelude of an at-rule that make a condition also true in browsers that only support another
 * name of the tested feature: in `@supports` for properties (CSS Conditional Rules Level 3, section 6), in `@media` for
 * the resolution (Compatibility Standard, section 4).
 */
export function conditionInsertions(node: AtrulePlain, from: CopiedText, needs: PrefixNeeds): Insertion[] {
  const name = node.name.toLowerCase();
  if (node.prelude?.type !== 'AtrulePrelude' || !node.prelude.loc) return [];
  const text = from.text.slice(node.prelude.loc.start.offset, node.prelude.loc.end.offset);
  if (name === 'supports') return node.prelude.children.flatMap((child) => supported(child, from, text, needs));
  if (name !== 'media') return [];
  return node.prelude.children
    .flatMap((child) => (child.type === 'MediaQueryList' ? child.children : []))
    .flatMap((query) => resolutions(query, from, text, needs));
}

function supported(node: CssNodePlain, from: CopiedText, head: string, needs: PrefixNeeds): Insertion[] {
  if (node.type === 'SupportsDeclaration' && node.loc) {
    const { property } = node.declaration;
    const value = from.text
      .slice(node.loc.start.offset, node.loc.end.offset)
      .replace(/^\(\s*/, '')
      .replace(/\s*\)$/, '');
    const others = needs
      .property(property.toLowerCase())
      .filter((other) => vendorOf(other) !== '' && !head.toLowerCase().includes(other));
    if (others.length === 0) return [];
    const before = others.map((other) => `(${other}${value.slice(property.length)}) or `).join('');
    return [
      { at: node.loc.start.offset, text: `(${before}` },
      { at: node.loc.end.offset, text: ')' },
    ];
  }
  return 'children' in node && Array.isArray(node.children)
    ? (node.children as CssNodePlain[]).flatMap((child) => supported(child, from, head, needs))
    : [];
}

/** Dots per pixel in one of each unit. */
const ratios: Readonly<Record<string, number>> = { dppx: 1, x: 1, dpi: 1 / 96, dpcm: 2.54 / 96 };

function resolutions(query: CssNodePlain, from: CopiedText, head: string, needs: PrefixNeeds): Insertion[] {
  if (!query.loc || needs.way('resolution').length === 0 || /device-pixel-ratio/i.test(head)) return [];
  const start = query.loc.start.offset;
  let other = from.text.slice(start, query.loc.end.offset);
  let isOther = false;
  for (const { name, value, loc } of featuresOf(query).toReversed()) {
    const limit = /^(min-|max-|)resolution$/i.exec(name)?.[1];
    if (limit === undefined || value?.type !== 'Dimension' || !loc) continue;
    const ratio = Number(value.value) * (ratios[value.unit.toLowerCase()] ?? NaN);
    if (Number.isNaN(ratio)) continue;
    const feature = `(-webkit-${limit.toLowerCase()}device-pixel-ratio: ${String(Math.round(ratio * 1e4) / 1e4)})`;
    other = other.slice(0, loc.start.offset - start) + feature + other.slice(loc.end.offset - start);
    isOther = true;
  }
  return isOther ? [{ at: start, text: `${other.trimEnd()}, ` }] : [];
}

type Feature = Extract<CssNodePlain, { type: 'Feature' }>;

function featuresOf(node: CssNodePlain): Feature[] {
  if (node.type === 'Feature') return [node];
  if (node.type === 'MediaQuery') return node.condition ? featuresOf(node.condition) : [];
  return node.type === 'Condition' ? node.children.flatMap(featuresOf) : [];
}
