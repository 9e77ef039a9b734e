import type { CssNodePlain, FunctionNodePlain } from 'css-tree';

/** A colour in sRGB: three channels of eight bits, and how opaque it is, from 0 to 1. */
export interface Channels {
  readonly red: number;
  readonly green: number;
  readonly blue: number;
  readonly alpha: number;
}

/** The channels of `rgb()`, `hsl()` or `hwb()`, rounded as browsers do; undefined if any of them is not a number. */
export function channelsOf(node: FunctionNodePlain): Channels | undefined {
  const name = node.name.toLowerCase();
  const parts = partsOf(node.children);
  // The youngest of the three has no notation with commas.
  if (!parts || (name === 'hwb' && parts.hasCommas)) return undefined;
  const alpha = parts.alpha === undefined ? 1 : fraction(parts.alpha);
  if (alpha === undefined) return undefined;
  const rgb = name.startsWith('rgb') ? fromRgb(parts.values) : fromHue(parts.values, name === 'hwb' ? hwb : hsl);
  if (!rgb) return undefined;
  const [red, green, blue] = rgb;
  return { red, green, blue, alpha };
}

type Triple = readonly [number, number, number];

/** The three values and the alpha, in either notation; undefined if it is a mixture of both. */
function partsOf(
  nodes: readonly CssNodePlain[],
): { values: readonly CssNodePlain[]; alpha?: CssNodePlain; hasCommas: boolean } | undefined {
  const signs = nodes.flatMap((node) => (node.type === 'Operator' ? [node.value.trim()] : []));
  const values = nodes.filter((node) => node.type !== 'Operator');
  const [a, b, c, alpha, more] = values;
  const form = signs.join('');
  if (!a || !b || !c || more || !['', '/', ',,', ',,,'].includes(form)) return undefined;
  if ((alpha === undefined) !== (form === '' || form === ',,')) return undefined;
  return { values: [a, b, c], ...(alpha && { alpha }), hasCommas: form.startsWith(',') };
}

function fromRgb(values: readonly CssNodePlain[]): Triple | undefined {
  const types = new Set(values.map(({ type }) => type));
  if (types.size !== 1) return undefined;
  const [red, green, blue] = values.map((node) =>
    node.type === 'Number'
      ? byte(Number(node.value))
      : node.type === 'Percentage'
        ? byte(Number(node.value) * 2.55)
        : undefined,
  );
  return red === undefined || green === undefined || blue === undefined ? undefined : [red, green, blue];
}

function fromHue(
  values: readonly CssNodePlain[],
  convert: (hue: number, a: number, b: number) => Triple,
): Triple | undefined {
  const [hue, a, b] = values;
  const degrees = hue && degreesOf(hue);
  if (degrees === undefined || a?.type !== 'Percentage' || b?.type !== 'Percentage') return undefined;
  const [x, y] = [Number(a.value) / 100, Number(b.value) / 100];
  const isWithin = x >= 0 && x <= 1 && y >= 0 && y <= 1;
  if (!isWithin && convert !== hsl) return undefined;
  // Saturation and lightness are clamped to their ranges (CSS Color Level 4, section 7).
  const [first, second] = [clamped(x), clamped(y)];
  return convert(((degrees % 360) + 360) % 360, first, second).map((channel) =>
    byte(channel * 255),
  ) as unknown as Triple;
}

const clamped = (value: number): number => Math.max(0, Math.min(1, value));

const perUnit: Readonly<Record<string, number>> = { deg: 1, turn: 360, grad: 0.9 };

function degreesOf(node: CssNodePlain): number | undefined {
  if (node.type === 'Number') return Number(node.value);
  const factor = node.type === 'Dimension' ? perUnit[node.unit.toLowerCase()] : undefined;
  return node.type === 'Dimension' && factor !== undefined ? Number(node.value) * factor : undefined;
}

/** CSS Color Level 4, section 7.1. */
function hsl(hue: number, saturation: number, lightness: number): Triple {
  const channel = (n: number): number => {
    const k = (n + hue / 30) % 12;
    const a = saturation * Math.min(lightness, 1 - lightness);
    return lightness - a * Math.max(-1, Math.min(k - 3, 9 - k, 1));
  };
  return [channel(0), channel(8), channel(4)];
}

/** CSS Color Level 4, section 8.1. */
function hwb(hue: number, white: number, black: number): Triple {
  if (white + black >= 1) {
    const gray = white / (white + black);
    return [gray, gray, gray];
  }
  return hsl(hue, 1, 0.5).map((channel) => channel * (1 - white - black) + white) as unknown as Triple;
}

/** The nearest of 256 steps; midpoints, except for rounding errors, are rounded up. */
function byte(value: number): number {
  return Math.max(0, Math.min(255, Math.floor(value + 0.5 + 1e-9)));
}

function fraction(node: CssNodePlain): number | undefined {
  const value =
    node.type === 'Number' ? Number(node.value) : node.type === 'Percentage' ? Number(node.value) / 100 : NaN;
  return Number.isNaN(value) ? undefined : clamped(value);
}
