import type { CssNodePlain, FunctionNodePlain } from 'css-tree';
import { channelsOf, type Channels } from './color-channels.js';
import { namedColors } from '../named-colors.js';
import { shortNumber } from './numbers.js';
import type { StyleRewrite, ValuePlace } from './rewrite.js';

/** Properties in which a colour name has no other meaning. */
const colorProperties =
  /^(-\w+-)?((.*-)?color|background(-image)?|border(-(top|right|bottom|left|inline|block)(-(start|end))?)?|border-image(-source)?|outline|(box|text)-shadow|fill|stroke|column-rule|text-decoration|text-emphasis|caret|filter|backdrop-filter|mask(-image)?)$/;

const colorFunctions = /^(color-mix|rgba?|hsla?|hwb|lab|lch|oklab|oklch|color|contrast-color)$/;

const hexOf = new Map(Object.entries(namedColors));
const nameOf = new Map<string, string>();
for (const [name, hex] of hexOf) {
  const short = shortHex(hex);
  const known = nameOf.get(short);
  if (name.length <= short.length + 1 && (known === undefined || name.length < known.length)) nameOf.set(short, name);
}

/** Writes colours in their shortest spelling that every target browser knows. */
export const colors: StyleRewrite = {
  name: 'colors',
  doc: 'Writes sRGB colours in the shortest form: a name, #rgb, #rrggbb or rgb(), and #rgba or #rrggbbaa if all target browsers support them. The eight bits per channel that browsers paint are the same; in the middle of an animation they may differ by one. Colours of other spaces keep their space.',
  reference: 'CSS Color Level 4, sections 4 to 8 and 15',
  component: { Hash: shortened, Identifier: shortened, Function: shortened },
};

function shortened(
  node: Extract<CssNodePlain, { type: 'Hash' | 'Identifier' | 'Function' }>,
  place: ValuePlace,
): CssNodePlain | undefined {
  const takesNames = colorProperties.test(place.property) && !place.functions.includes('url');
  // The arguments of colour mixing and relative colours are not rounded.
  if (node.type === 'Function' && place.functions.some((name) => colorFunctions.test(name))) return undefined;
  const hex = hexFor(node, takesNames);
  if (hex === undefined) return undefined;
  const loc = node.loc ? { loc: node.loc } : {};
  const short = shortHex(hex);
  const name = takesNames ? nameOf.get(short) : undefined;
  if (name !== undefined)
    return node.type === 'Identifier' && node.name === name ? undefined : { type: 'Identifier', name, ...loc };
  const isLong = short.length === 4 || short.length === 8;
  if (isLong && node.type !== 'Hash' && !place.support.knows('notation', 'hexadecimal-alpha')) return undefined;
  // A name that is shorter than its number is not changed, and neither is a number.
  if (node.type === 'Identifier' && node.name.length < short.length + 1) return undefined;
  return node.type === 'Hash' && node.value === short ? undefined : { type: 'Hash', value: short, ...loc };
}

function hexFor(node: CssNodePlain, takesNames: boolean): string | undefined {
  if (node.type === 'Hash' && /^([\da-f]{3,4}|[\da-f]{6}|[\da-f]{8})$/i.test(node.value))
    return node.value.toLowerCase();
  if (node.type === 'Identifier' && takesNames) {
    const name = node.name.toLowerCase();
    return name === 'transparent' ? '00000000' : hexOf.get(name);
  }
  if (node.type !== 'Function' || !/^(rgba?|hsla?|hwb)$/i.test(node.name)) return undefined;
  const channels = channelsOf(node as FunctionNodePlain);
  return channels && hexOfChannels(channels);
}

/** The hexadecimal form of a colour, if eight bits per channel represent it exactly. */
function hexOfChannels({ red, green, blue, alpha }: Channels): string | undefined {
  const byte = Math.round(alpha * 255);
  if (shownAlpha(byte) !== shortNumber(String(alpha))) return undefined;
  const parts = alpha === 1 ? [red, green, blue] : [red, green, blue, byte];
  return parts.map((part) => part.toString(16).padStart(2, '0')).join('');
}

/** The shortest number that is serialized as eight bits of alpha (CSS Color Level 4, section 15.2.1). */
function shownAlpha(byte: number): string {
  const short = Math.round((byte / 255) * 100) / 100;
  return shortNumber(String(Math.round(short * 255) === byte ? short : Math.round((byte / 255) * 1000) / 1000));
}

/** Shortens pairs of equal digits to one, and removes an opaque alpha. */
function shortHex(hex: string): string {
  const opaque = hex.length === 8 ? hex.replace(/ff$/, '') : hex.length === 4 ? hex.replace(/f$/, '') : hex;
  return /^((.)\2){3,4}$/.test(opaque) && opaque.length >= 6 ? opaque.replace(/(.)\1/g, '$1') : opaque;
}
