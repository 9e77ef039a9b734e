import { crc32, deflateSync } from 'node:zlib';
import type { Browser, Page } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser } from './support/browser.js';
import { TestProject } from './support/project.js';
import { randomPicture, type RandomPicture } from './support/random-picture.js';
import { Random } from './support/random.js';

let browser: Browser;
let page: Page;
beforeAll(async () => {
  browser = await openBrowser();
  page = await browser.newPage();
  // Pictures are only decoded frame by frame on secure pages.
  await page.route('https://fernlight.example/', (route) => route.fulfill({ body: '', contentType: 'text/html' }));
  await page.goto('https://fernlight.example/');
});
afterAll(() => browser.close());

/** The size and the pixels of a picture, as Chromium shows it. */
const shown = (bytes: Uint8Array, type: string): Promise<string> =>
  page.evaluate(
    async (url) => {
      const image = new Image();
      image.src = url;
      await image.decode();
      const canvas = new OffscreenCanvas(image.naturalWidth, image.naturalHeight);
      const drawing = canvas.getContext('2d')!;
      drawing.drawImage(image, 0, 0);
      const pixels = drawing.getImageData(0, 0, canvas.width, canvas.height).data;
      let sum = 7;
      for (const value of pixels) sum = (Math.imul(sum, 31) + value) | 0;
      return `${String(canvas.width)} ${String(sum)}`;
    },
    `data:${type};base64,${Buffer.from(bytes).toString('base64')}`,
  );

/** The frames of an animation with their times, and how often it repeats, as Chromium decodes it. */
const frames = (bytes: Uint8Array, type: string): Promise<string> =>
  page.evaluate(
    async ([url, type]) => {
      const decoder = new ImageDecoder({ data: await (await fetch(url)).arrayBuffer(), type });
      await Promise.all([decoder.tracks.ready, decoder.completed]);
      const { frameCount, repetitionCount } = decoder.tracks.selectedTrack!;
      const found = [repetitionCount];
      for (let frameIndex = 0; frameIndex < frameCount; frameIndex++) {
        const { image } = await decoder.decode({ frameIndex });
        const canvas = new OffscreenCanvas(image.displayWidth, image.displayHeight);
        const drawing = canvas.getContext('2d')!;
        drawing.drawImage(image, 0, 0);
        let sum = 7;
        for (const value of drawing.getImageData(0, 0, canvas.width, canvas.height).data)
          sum = (Math.imul(sum, 31) + value) | 0;
        found.push(image.duration ?? 0, canvas.width, sum);
      }
      return found.join(' ');
    },
    [`data:${type};base64,${Buffer.from(bytes).toString('base64')}`, type] as const,
  );

/** A photograph of noise and waves, as Chromium encodes it. */
const encoded = async (type: string, width: number, height: number): Promise<Buffer> => {
  const text = await page.evaluate(
    async ([mime, w, h]) => {
      const canvas = new OffscreenCanvas(w, h);
      const drawing = canvas.getContext('2d')!;
      for (let y = 0; y < h; y += 2)
        for (let x = 0; x < w; x += 2) {
          drawing.fillStyle = `hsl(${String((x * y) % 360)} 60% ${String(40 + ((x * 7 + y * 3) % 30))}%)`;
          drawing.fillRect(x, y, 2, 2);
        }
      const blob = await canvas.convertToBlob({ type: mime, quality: 0.8 });
      return [...new Uint8Array(await blob.arrayBuffer())];
    },
    [type, width, height] as const,
  );
  return Buffer.from(text);
};

function chunk(type: string, data: Uint8Array): Buffer {
  const body = Buffer.concat([Buffer.from(type, 'latin1'), data]);
  const [length, sum] = [Buffer.alloc(4), Buffer.alloc(4)];
  length.writeUInt32BE(data.length);
  sum.writeUInt32BE(crc32(body));
  return Buffer.concat([length, body, sum]);
}

/** A PNG file that is packed badly, with a comment and the date. */
function png(width: number, height: number): Buffer {
  const head = Buffer.alloc(13);
  head.writeUInt32BE(width);
  head.writeUInt32BE(height, 4);
  head.set([8, 6], 8);
  const rows = Array.from({ length: height }, (_, y) =>
    Buffer.from([0, ...Array.from({ length: width * 4 }, (__, x) => (x % 4 === 3 ? 255 - y : (x * y) & 0xf0))]),
  );
  return Buffer.concat([
    Buffer.from('\x89PNG\r\n\x1a\n', 'latin1'),
    ...[chunk('IHDR', head), chunk('tEXt', Buffer.from('Comment\0Clear skies')), chunk('tIME', Buffer.alloc(7))],
    ...[chunk('IDAT', deflateSync(Buffer.concat(rows), { level: 1 })), chunk('IEND', Buffer.alloc(0))],
  ]);
}

const exif = Buffer.from(
  'MM\0*\0\0\0\x08\0\x02\x01\x0e\0\x02\0\0\0\x08\0\0\0\x26\x01\x12\0\x03\0\0\0\x01\0\x06\0\0\0\0\0\0the dome',
  'latin1',
);

/** A segment of a JPEG file. */
const segment = (marker: number, data: Uint8Array): Buffer => {
  const head = Buffer.from([0xff, marker, (data.length + 2) >> 8, (data.length + 2) & 255]);
  return Buffer.concat([head, data]);
};

const withSegments = (jpeg: Buffer, ...segments: Buffer[]): Buffer =>
  Buffer.concat([jpeg.subarray(0, 2), ...segments, jpeg.subarray(2)]);

/** A JPEG file with the tables that the standard proposes, not with the best ones. */
const standardJpeg = Buffer.from(
  '/9j/2wBDABQODxIPDRQSEBIXFRQYHjIhHhwcHj0sLiQySUBMS0dARkVQWnNiUFVtVkVGZIhlbXd7gYKBTmCNl4x9lnN+gXz/2wBDARUXFx4aHjshITt8U0ZTfHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHx8fHz/wAARCAAYACgDASIAAhEBAxEB/8QAHwAAAQUBAQEBAQEAAAAAAAAAAAECAwQFBgcICQoL/8QAtRAAAgEDAwIEAwUFBAQAAAF9AQIDAAQRBRIhMUEGE1FhByJxFDKBkaEII0KxwRVS0fAkM2JyggkKFhcYGRolJicoKSo0NTY3ODk6Q0RFRkdISUpTVFVWV1hZWmNkZWZnaGlqc3R1dnd4eXqDhIWGh4iJipKTlJWWl5iZmqKjpKWmp6ipqrKztLW2t7i5usLDxMXGx8jJytLT1NXW19jZ2uHi4+Tl5ufo6erx8vP09fb3+Pn6/8QAHwEAAwEBAQEBAQEBAQAAAAAAAAECAwQFBgcICQoL/8QAtREAAgECBAQDBAcFBAQAAQJ3AAECAxEEBSExBhJBUQdhcRMiMoEIFEKRobHBCSMzUvAVYnLRChYkNOEl8RcYGRomJygpKjU2Nzg5OkNERUZHSElKU1RVVldYWVpjZGVmZ2hpanN0dXZ3eHl6goOEhYaHiImKkpOUlZaXmJmaoqOkpaanqKmqsrO0tba3uLm6wsPExcbHyMnK0tPU1dbX2Nna4uPk5ebn6Onq8vP09fb3+Pn6/9oADAMBAAIRAxEAPwDRtL1cCp5r1dtZVpbPgVPNbPtoW4pbFS8vVyaoi9XdS3ls+TVAWz7q0nsKlub9rerxRVG1tn4orz5bnczpLR48DpU8zx7e1FFdi3OKWxjXjx5PSqIePd2oorSewqW5o2rx8dKKKK8+W53M/9k=',
  'base64',
);

/** A GIF file of one white pixel with a comment, which repeats three times. */
const gif = Buffer.from(
  'GIF89a\x01\0\x01\0\x80\0\0\xff\xff\xff\0\0\0!\xff\x0bNETSCAPE2.0\x03\x01\x03\0\0!\xfe\x05hello\0,\0\0\0\0\x01\0\x01\0\0\x02\x02D\x01\0;',
  'latin1',
);

const svg = `<?xml version="1.0" encoding="UTF-8"?>
<!-- drawn on a clear night -->
<svg xmlns="http://www.w3.org/2000/svg" xmlns:draw="https://draw.example/ns" viewBox="0 0 60.0 40" width="60" height="40" draw:version="1.2">
  <metadata><draw:page draw:zoom="2"/></metadata>
  <draw:guides><draw:line/></draw:guides>
  <style>.star { fill: #ffcc00 }</style>
  <g  fill="#112233" >
    <path d="M 0.50 10.0 A 5 5.0 0 01 10 +10 a5 5 0 1 0-4-4 L 20 , 1e1 Z" ></path>
    <path class="star" d="M30 5 l 5.500 10.0 -10 0 z"/>
    <polygon points="40,5  50.0,5 45 , 15"></polygon>
  </g>
  <text x="2" y="35" font-size="8" xml:space="preserve">Clear  <tspan>skies</tspan> tonight</text>
</svg>
`;

describe('recompress', () => {
  it('makes pictures smaller that look the same, and drops what is not shown', async () => {
    const jpeg = await encoded('image/jpeg', 93, 61);
    const files: Record<string, [bytes: Buffer, type: string]> = {
      'dome.png': [png(90, 60), 'image/png'],
      'plain.jpg': [withSegments(standardJpeg, segment(0xfe, Buffer.from('a comment'))), 'image/jpeg'],
      'turned.jpg': [withSegments(jpeg, segment(0xe1, Buffer.concat([Buffer.from('Exif\0\0'), exif]))), 'image/jpeg'],
      'anim.gif': [gif, 'image/gif'],
      'sky.svg': [Buffer.from(svg), 'image/svg+xml'],
    };
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { pictures: { from: "*.{png,jpg,gif,svg,txt}", to: site, steps: [recompress] } }\n',
      'note.txt': 'no picture',
      ...Object.fromEntries(Object.entries(files).map(([name, [bytes]]) => [name, bytes])),
    });
    const shares: Record<string, number> = { 'dome.png': 0.5, 'plain.jpg': 0.7, 'anim.gif': 0.9, 'sky.svg': 0.7 };
    expect((await project.build()).stderr).toBe('');
    const first = project.files('site').map((path) => project.bytes(path).toString('base64'));
    for (const [name, [before, type]] of Object.entries(files)) {
      const after = project.bytes(`site/${name}`);
      expect(after.length, name).toBeLessThan(before.length * (shares[name] ?? 1));
      expect(await shown(after, type), name).toBe(await shown(before, type));
    }
    const text = (name: string): string => project.bytes(`site/${name}`).toString('latin1');
    expect(text('dome.png')).not.toMatch(/tEXt|tIME/);
    expect(text('turned.jpg')).not.toContain('the dome');
    expect((await shown(project.bytes('site/turned.jpg'), 'image/jpeg')).split(' ')[0]).toBe('61');
    expect(text('anim.gif')).toContain('NETSCAPE2.0');
    expect(text('sky.svg')).toContain('<path d="M.5 10A5 5 0 0 1 10 10a5 5 0 1 0-4-4L20 1e1Z"/>');
    expect(text('sky.svg')).not.toMatch(/draw|metadata|clear night/);
    expect(project.read('site/note.txt')).toBe('no picture');
    await project.run(['clean', '--store']);
    await project.build();
    expect(project.files('site').map((path) => project.bytes(path).toString('base64'))).toEqual(first);
  });

  it('leaves what it cannot make smaller as it is, and reports damaged files', async () => {
    const jpeg = await encoded('image/jpeg', 30, 30);
    const scripted = '<svg xmlns="http://www.w3.org/2000/svg">  <script>1</script>  </svg>';
    const entity = '<!DOCTYPE svg [<!ENTITY a "b">]><svg xmlns="http://www.w3.org/2000/svg">  &a;  </svg>';
    // The first picture says that there is a second one for screens with more contrast.
    const contrast = withSegments(jpeg, segment(0xe2, Buffer.from('MPF\0more')), segment(0xfe, Buffer.from('x')));
    const files: Record<string, string | Buffer> = {
      'a.svg': scripted,
      'b.svg': entity,
      'c.svg': '<svg>  <g> </svg>',
      'contrast.jpg': contrast,
      'short.jpg': jpeg.subarray(0, jpeg.length - 300),
      'short.png': png(9, 9).subarray(0, 60),
      'short.gif': gif.subarray(0, 40),
      'text.png': 'a text',
      'sum.png': Buffer.from(png(9, 9).toString('latin1').replace('Clear', 'Cleer'), 'latin1'),
    };
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { pictures: { from: "*.{png,jpg,gif,svg}", to: site, steps: [recompress] } }\n',
      ...files,
    });
    const { code, said } = await project.diagnose();
    const damaged = ['short.gif', 'short.jpg', 'short.png', 'sum.png', 'text.png'];
    expect([code, said.sort()]).toEqual([0, damaged.map((name) => `${name}: warning [picture-damaged]`)]);
    for (const [name, content] of Object.entries(files))
      expect(project.bytes(`site/${name}`).equals(Buffer.from(content)), name).toBe(true);
  });

  it('reads SVG files in any encoding, also for references, and keeps white space that selectors see', async () => {
    const dome = (encoding: string): string =>
      `<?xml version="1.0" encoding="${encoding}"?>\n<!-- c --><svg xmlns="http://www.w3.org/2000/svg"><title>Über</title><image href="höhe.png"/></svg>`;
    const written =
      '<svg xmlns="http://www.w3.org/2000/svg"><title>Über</title><image href="h%C3%B6he-HASH.png"/></svg>\n';
    const empty =
      '<svg xmlns="http://www.w3.org/2000/svg"><style>rect:empty { fill: red }</style><rect> </rect></svg>\n';
    const project = new TestProject({
      'anvil.yaml': `profiles: { production: { names: hashed } }
pipelines:
  pictures: { from: "*.{png,svg}", to: site, steps: [{ recompress: { match: "*.svg" } }] }
  plain: { from: "*.svg", to: plain }
`,
      'latin.svg': Buffer.from(dome('ISO-8859-1'), 'latin1'),
      'utf-16.svg': Buffer.from(`\uFEFF${dome('utf-16')}`, 'utf16le'),
      'bare.svg': Buffer.from(dome('utf-8'), 'latin1'),
      'empty.svg': empty,
      'höhe.png': png(9, 9),
    });
    const { code, said } = await project.diagnose();
    expect([code, said.filter((one) => !one.includes('reference-missing'))]).toEqual([
      0,
      [
        'bare.svg: warning [picture-damaged]',
        'bare.svg: warning [references-unknown]',
        'bare.svg: warning [references-unknown]',
      ],
    ]);
    const pictures = project.files('site');
    const read = (name: string): string =>
      project.read(pictures.find((path) => path.startsWith(`site/${name}-`))!).replace(/-[\da-f]{10}/g, '-HASH');
    expect([read('latin'), read('utf-16'), read('empty')]).toEqual([written, written, empty]);
  });

  it('shows the same for random pictures and animations of all encoders', async () => {
    const { PICTURES = '60', SEED = '1' } = process.env;
    const random = new Random(Number(SEED));
    const made = new Map<string, RandomPicture>();
    for (let at = 0; at < Number(PICTURES); at++) {
      const picture = await randomPicture(random);
      made.set(`${String(at)}.${picture.extension}`, picture);
    }
    const project = new TestProject({
      'anvil.yaml': `pipelines:
  quick: { from: "[0-9]*.*", to: quick, steps: [recompress: quick] }
  thorough: { from: "[0-9]*.*", to: thorough, steps: [recompress: thorough] }
`,
      ...Object.fromEntries([...made].map(([name, { bytes }]) => [name, bytes])),
    });
    expect((await project.build()).stderr).toBe('');
    for (const [name, { bytes, type, extension }] of made) {
      const look = extension === 'gif' ? frames : shown;
      const before = await look(bytes, type);
      for (const folder of ['quick', 'thorough']) {
        const after = project.bytes(`${folder}/${name}`);
        expect(after.length, name).toBeLessThanOrEqual(bytes.length);
        expect(await look(after, type), `${folder}/${name}`).toBe(before);
      }
    }
  });

  it('packs the pixels of GIF files again, with the colours that they have', async () => {
    const flat = await sharp({ create: { width: 300, height: 200, channels: 3, background: 'teal' } })
      .gif()
      .toBuffer();
    // All 256 colours, of which the image has one.
    const colours = Buffer.concat([flat.subarray(13, 16), Buffer.alloc(765, 9)]);
    const size = 3 << ((flat[10]! & 7) + 1);
    const head = Buffer.from(flat.subarray(0, 13));
    head[10] = head[10]! | 7;
    const wasteful = Buffer.concat([
      head,
      flat.subarray(13, 13 + size),
      colours.subarray(size),
      flat.subarray(13 + size),
    ]);
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { pictures: { from: "*.gif", to: site, steps: [recompress] } }\n',
      'flat.gif': wasteful,
      // Its code after the first one means nothing.
      'wrong.gif': Buffer.concat([
        gif.subarray(0, 13),
        gif.subarray(13, -6),
        Buffer.from('\x02\x02\xff\xff\0;', 'latin1'),
      ]),
    });
    expect((await project.build()).stderr).toBe('');
    const after = project.bytes('site/flat.gif');
    expect(after.length).toBeLessThan(wasteful.length - 700);
    expect(await frames(after, 'image/gif')).toBe(await frames(wasteful, 'image/gif'));
    expect(project.bytes('site/wrong.gif').subarray(-6)).toEqual(Buffer.from('\x02\x02\xff\xff\0;', 'latin1'));
  });

  it('works as the documentation says', async () => {
    const project = TestProject.documented('pictures.md');
    await project.build();
    expect(project.read('site/pictures/star.svg')).toBe(
      '<svg xmlns="http://www.w3.org/2000/svg" viewBox="0 0 10 10"><path fill="#fc0" d="M5 .5L6.5 4L9.5 5L6.5 6L5 9.5L3.5 6L.5 5L3.5 4Z"/></svg>\n',
    );
    await project.build('-p', 'development');
    expect(project.read('site/pictures/star.svg')).toContain('<!-- a star -->');
  });
});
