// Draws the pictures of the demo: skies with stars, the same on every machine.
import { deflateSync, crc32 } from 'node:zlib';
import { writeFileSync } from 'node:fs';

type Color = readonly [red: number, green: number, blue: number];
type Paint = (x: number, y: number) => Color;

const width = 640;
const height = 360;

/** Numbers from 0 to 1, always the same for one seed (Lehmer's generator). */
function random(seed: number): () => number {
  let state = seed;
  return () => (state = (state * 48_271) % 2_147_483_647) / 2_147_483_647;
}

const mix = (a: Color, b: Color, part: number): Color =>
  [0, 1, 2].map((at) => a[at]! + (b[at]! - a[at]!) * Math.min(1, Math.max(0, part))) as unknown as Color;

function sky(seed: number, top: Color, bottom: Color, count: number): Paint {
  const next = random(seed);
  const stars = new Map<number, number>();
  for (let made = 0; made < count; made++)
    stars.set(Math.floor(next() * height * 0.85) * width + Math.floor(next() * width), next());
  return (x, y) => mix(mix(top, bottom, y / height), [255, 246, 220], stars.get(y * width + x) ?? 0);
}

/** The dome: half a circle on a hill, with a lit slit. */
function dome(under: Paint): Paint {
  return (x, y) => {
    const hill = 300 - 40 * Math.sin((x / width) * Math.PI);
    if (y > hill) return [12, 18, 22];
    const distance = Math.hypot(x - 320, y - 265);
    if (y < 265 && distance < 90)
      return Math.abs(x - 335) < 10 - distance / 30
        ? [255, 190, 100]
        : mix([150, 160, 175], [60, 70, 90], (x - 230) / 180);
    return y >= 265 && Math.abs(x - 320) < 80 ? [46, 54, 70] : under(x, y);
  };
}

/** A telescope as a slanted tube on a pier. */
function tube(under: Paint): Paint {
  return (x, y) => {
    const along = (x - 150) * 0.9 - (y - 280) * 0.44;
    const across = (x - 150) * 0.44 + (y - 280) * 0.9;
    if (along > 0 && along < 380 && Math.abs(across) < 16 + along / 22)
      return mix([196, 150, 84], [92, 62, 30], (across + 34) / 68);
    return Math.abs(x - 290) < 14 && y > 215 ? [40, 46, 58] : under(x, y);
  };
}

/** Two overlapping clouds of light. */
function cloud(under: Paint): Paint {
  return (x, y) => {
    const glow =
      Math.exp(-(((x - 300) / 120) ** 2) - ((y - 170) / 70) ** 2) +
      0.7 * Math.exp(-(((x - 390) / 60) ** 2) - ((y - 140) / 90) ** 2);
    return mix(under(x, y), mix([120, 70, 160], [240, 190, 150], glow), glow * 0.8);
  };
}

function png(paint: Paint): Buffer {
  const rows = Buffer.alloc((width * 3 + 1) * height);
  for (let y = 0; y < height; y++) {
    for (let x = 0; x < width; x++) rows.set(paint(x, y).map(Math.round), y * (width * 3 + 1) + 1 + x * 3);
  }
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width, 0);
  head.writeUInt32BE(height, 4);
  head.set([8, 2, 0, 0, 0], 8);
  return Buffer.concat([
    Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'),
    chunk('IHDR', head),
    chunk('IDAT', deflateSync(rows, { level: 9 })),
    chunk('IEND', Buffer.alloc(0)),
  ]);
}

function chunk(name: string, data: Buffer): Buffer {
  const body = Buffer.concat([Buffer.from(name, 'latin1'), data]);
  const frame = Buffer.alloc(8);
  frame.writeUInt32BE(data.length, 0);
  frame.writeUInt32BE(crc32(body), 4);
  return Buffer.concat([frame.subarray(0, 4), body, frame.subarray(4)]);
}

const pictures: Readonly<Record<string, Paint>> = {
  dome: dome(sky(11, [8, 14, 34], [48, 62, 104], 420)),
  refractor: tube(sky(23, [14, 16, 30], [38, 44, 72], 260)),
  nebula: cloud(sky(5, [6, 8, 20], [16, 18, 40], 520)),
};

for (const [name, paint] of Object.entries(pictures)) writeFileSync(`demo/pictures/${name}.png`, png(paint));
