import type { CssNodePlain, FunctionNodePlain } from 'css-tree';
import { namedColors } from './named-colors.js';
import type { StyleRewrite } from './rewrite.js';

/** Properties in which a name of a colour is nothing else. */
const colorProperties =
  /^(-\w+-)?((.*-)?color|background(-image)?|border(-(top|right|bottom|left|inline|block)(-(start|end))?)?|border-image(-source)?|outline|(box|text)-shadow|fill|stroke|column-rule|text-decoration|text-emphasis|caret|filter|backdrop-filter|mask(-image)?)$/;

const hexOf = new Map(Object.entries(namedColors));
const nameOf = new Map<string, string>();
for (const [name, hex] of hexOf) {
  const short = shortHex(hex);
  const known = nameOf.get(short);
  if (name.length < short.length + 1 && (known === undefined || name.length < known.length)) nameOf.set(short, name);
}

/** Writes colours in their shortest spelling that every browser knows. */
export const colors: StyleRewrite = {
  name: 'colors',
  doc: 'Opaque sRGB colours are written as the shortest of #rgb, #rrggbb and their name; the colour stays the same.',
  reference: 'CSS Color Level 4, sections 5 and 6',
  component(node, { property, functions }) {
    const takesNames = colorProperties.test(property) && !functions.includes('url');
    const hex = hexFor(node, takesNames);
    if (hex === undefined) return undefined;
    const short = shortHex(hex);
    const name = takesNames ? nameOf.get(short) : undefined;
    const loc = node.loc ? { loc: node.loc } : {};
    if (name !== undefined) return { type: 'Identifier', name, ...loc };
    // A name that is shorter than its number stays.
    if (node.type === 'Identifier' && node.name.length <= short.length + 1) return undefined;
    return { type: 'Hash', value: short, ...loc };
  },
};

function hexFor(node: CssNodePlain, takesNames: boolean): string | undefined {
  if (node.type === 'Hash' && /^([\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})$/i.test(node.value))
    return node.value.toLowerCase();
  if (node.type === 'Identifier' && takesNames) return hexOf.get(node.name.toLowerCase());
  if (node.type === 'Function' && /^rgba?$/i.test(node.name)) return hexOfRgb(node);
  return undefined;
}

/** The hexadecimal form of rgb( ) with three whole numbers and no transparency. */
function hexOfRgb({ children }: FunctionNodePlain): string | undefined {
  const parts = children.filter((child) => child.type !== 'Operator' || child.value.trim() !== ',');
  const alpha = parts[3]?.type === 'Operator' ? parts.slice(4) : parts.slice(3);
  if (alpha.length > 1 || (alpha[0] && !isOpaque(alpha[0]))) return undefined;
  const channels = parts
    .slice(0, 3)
    .map((part) =>
      part.type === 'Number' && /^\d+$/.test(part.value) ? Math.min(255, Number(part.value)) : undefined,
    );
  if (channels.length !== 3 || channels.includes(undefined)) return undefined;
  return channels.map((channel) => channel!.toString(16).padStart(2, '0')).join('');
}

const isOpaque = (node: CssNodePlain): boolean =>
  (node.type === 'Number' && Number(node.value) >= 1) || (node.type === 'Percentage' && Number(node.value) >= 100);

/** Digits in pairs become one where the pairs allow it; opaque alpha goes. */
function shortHex(hex: string): string {
  const opaque = hex.length === 8 ? hex.replace(/ff$/, '') : hex.length === 4 ? hex.replace(/f$/, '') : hex;
  return /^((.)\2){3,4}$/.test(opaque) && opaque.length >= 6 ? opaque.replace(/(.)\1/g, '$1') : opaque;
}
