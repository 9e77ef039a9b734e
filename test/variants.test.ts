import { readFileSync } from 'node:fs';
import type { Browser } from 'playwright-core';
import sharp from 'sharp';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { openBrowser, serveFolder } from './support/browser.js';
import { fileBlocks, TestProject } from './support/project.js';

let browser: Browser;
beforeAll(async () => {
  browser = await openBrowser();
});
afterAll(() => browser.close());

/** The pixels of a photograph: waves with noise. */
function raw(width: number, height: number): ReturnType<typeof sharp> {
  const pixels = Buffer.alloc(width * height * 3);
  let noise = 1;
  for (let at = 0; at < pixels.length; at++) {
    noise = (Math.imul(noise, 1103515245) + 12345) & 0x7fffffff;
    const [x, y] = [Math.floor(at / 3) % width, Math.floor(at / 3 / width)];
    pixels[at] = 60 + 60 * Math.sin((x + (at % 3) * 40) / 60) + 60 * Math.cos(y / 40) ** 2 + ((noise >> 16) % 24);
  }
  return sharp(pixels, { raw: { width, height, channels: 3 } });
}

const photograph = (width: number, height: number): Promise<Buffer> =>
  raw(width, height).jpeg({ quality: 92 }).toBuffer();

const drawing = (width: number): Promise<Buffer> =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${String(width)}" height="100"><rect width="70%" height="50%" fill="teal"/><circle cx="50%" cy="50%" r="40" fill="gold"/></svg>`,
    ),
  )
    .png({ compressionLevel: 0 })
    .toBuffer();

const page = (body: string, head = ''): string =>
  `<!doctype html><html lang="en"><head><title>F</title>${head}<style>img { max-width: 100%; height: auto }</style></head><body>${body}</body></html>\n`;

const project = (options: string, browsers = 'safari 15.4, chrome 130', names = 'hashed'): string =>
  `browsers: "${browsers}"
profiles: { production: { names: ${names} } }
pipelines:
  pictures: { from: "pictures/*", to: site/pictures, steps: [{ variants: ${options} }, recompress] }
  pages: { from: "*.html", to: site, steps: [minify] }
`;

/** What Chromium shows of a site in a window: the chosen files without hashes, the boxes of all elements, and the files that were loaded. */
async function shown(site: string, width: number): Promise<{ chosen: string[]; boxes: string; loaded: string[] }> {
  const { url, close } = await serveFolder(site);
  const window = await browser.newPage({ viewport: { width, height: 800 } });
  const loaded: string[] = [];
  const plain = (one: string): string => decodeURIComponent(one.slice(url.length)).replace(/-[0-9a-f]{10}(?=\.)/, '');
  window.on('response', (response) => {
    if (!response.url().includes('favicon')) loaded.push(`${String(response.status())} ${plain(response.url())}`);
  });
  await window.goto(url, { waitUntil: 'networkidle' });
  const { chosen, boxes } = await window.evaluate(() => ({
    chosen: [...document.images].map((image) => image.currentSrc),
    boxes: [...document.body.querySelectorAll(':not(picture, source)')].map((element) => {
      const { x, y, width, height } = element.getBoundingClientRect();
      return [element.tagName, ...[x, y, width, height].map((one) => one.toFixed(1))].join(' ');
    }),
  }));
  await window.close();
  close();
  return {
    chosen: chosen.map(plain),
    boxes: boxes.join('\n'),
    loaded: loaded.filter((one) => /\d \w/.test(one)).sort(),
  };
}

const layouts = [
  '<div style="display: flex; gap: 10px"><img src="pictures/moon.jpg" alt=""><img src=pictures/a%20chart.png alt><p>Clear skies</p></div>',
  '<div style="display: grid; grid-template-columns: 200px 1fr"><img src="pictures/moon.jpg" alt=""><p>Tonight</p></div>',
  '<figure style="float: left"><img src="pictures/dome.jpg" width="140" height="40" alt=""><figcaption>The moon</figcaption></figure>',
  '<p>A <a href="./"><img src=\'pictures/a chart.png\' alt="chart" style="width: 10em"></a> chart</p>',
  '<table><tr><td><img src="pictures/dome.jpg" sizes="140px" style="width: 140px" alt=""></td><td>text</td></tr></table>',
];

describe('variants', () => {
  it('are offered by pages, which look as before and load one file for each image', async () => {
    const preload = '<link rel="preload" as="image" href="pictures/moon.jpg">';
    const files = {
      'anvil.yaml': project('{ widths: [150, 450, 5000], formats: [avif, webp] }'),
      'pictures/moon.jpg': await photograph(600, 400),
      'pictures/dome.jpg': await photograph(450, 150),
      'pictures/a chart.png': await drawing(500),
      'index.html': page(layouts.join('\n'), preload),
    };
    const built = TestProject.withPackages(files);
    expect((await built.build()).stderr).toBe('');
    const before = TestProject.withPackages({
      ...files,
      'anvil.yaml': project('{ widths: 200 }').replace('{ variants: { widths: 200 } }, ', ''),
    });
    await before.build();
    for (const width of [360, 1280]) {
      const [now, then] = [await shown(built.path('site'), width), await shown(before.path('site'), width)];
      expect(now.boxes).toBe(then.boxes);
      const moon = width === 360 ? 'pictures/moon-450w.avif' : 'pictures/moon.avif';
      const dome = 'pictures/dome-150w.avif';
      // A narrower drawing has more bytes.
      const chart = 'pictures/a chart.avif';
      expect(now.chosen).toEqual([moon, chart, moon, dome, chart, dome]);
      expect(now.loaded).toEqual([...new Set(now.chosen)].map((path) => `200 ${path}`).sort());
    }
    const index = built.read('site/index.html');
    expect(index.match(/<source hidden type="image\/avif"/g)).toHaveLength(6);
    expect(index).toMatch(/imagesizes="\(max-width: 600px\) 100vw, 600px" type="image\/avif"/);
    // Orphans are removed, and a page keeps what it offers when it is built alone.
    built.write('index.html', page('<img src="pictures/moon.jpg" alt="again">'));
    await built.build('pages');
    expect(built.read('site/index.html')).toMatch(/srcset="pictures\/moon-150w-\w+\.avif 150w, /);
    built.write('pictures/moon.jpg', await photograph(450, 300));
    await built.build();
    expect(built.read('site/index.html')).toMatch(/\.avif 450w" sizes="\(max-width: 450px\) 100vw, 450px"/);
    const why = (await built.run(['why', 'site/pictures/moon-150w.avif'])).stdout;
    expect(why).toMatch(/referred to by +site\/index\.html/);
    const report = JSON.parse((await built.run(['report', '--json'])).stdout) as {
      pages: { all: { files: string[] } }[];
    };
    expect(report.pages[0]!.all.files.join()).toMatch(/^site\/index\.html,site\/pictures\/moon-\w{10}\.avif$/);
  });

  it('need no other element for formats that all target browsers show, and keep what a page offers itself', async () => {
    const own = '<img src="pictures/moon.jpg" srcset="pictures/moon.jpg 2x" alt="">';
    const picture =
      '<picture><source media="print" srcset="pictures/moon.jpg"><img src="pictures/moon.jpg?v=1" alt=""></picture>';
    const built = TestProject.withPackages({
      'anvil.yaml': project('{ formats: [webp, avif], sizes: "50vw", widths: 90 }', 'chrome 130', 'plain'),
      'pictures/moon.jpg': await photograph(300, 200),
      'pictures/sky.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
      'index.html': page(own + picture),
    });
    await built.build();
    expect(built.files('site')).toEqual(
      ['index.html', ...['moon-90w.webp', 'moon.jpg', 'moon.webp', 'sky.svg'].map((name) => `pictures/${name}`)].map(
        (path) => `site/${path}`,
      ),
    );
    const index = built.read('site/index.html');
    expect(index).toContain(`<img src=pictures/moon.jpg srcset="pictures/moon.jpg 2x" alt>`);
    expect(index).toContain(
      '<img src="pictures/moon.jpg?v=1" srcset="pictures/moon-90w.webp?v=1 90w, pictures/moon.webp?v=1 300w" sizes="50vw" alt>',
    );
    built.write('anvil.yaml', project('{ formats: avif }', 'chrome 130', 'plain'));
    await built.build();
    expect(built.read('site/index.html')).toContain(
      '<img src="pictures/moon.jpg?v=1" srcset="pictures/moon.avif?v=1" alt>',
    );
    // A policy may forbid the style of an element around the image.
    const policy = '<meta http-equiv="content-security-policy" content="style-src \'self\'">';
    built.write('index.html', page('<img src="pictures/moon.jpg" alt="">', policy));
    built.write('anvil.yaml', project('{ formats: avif, widths: 90 }', 'safari 15.4', 'plain'));
    await built.build();
    expect(built.read('site/index.html')).toMatch(
      /<body><img src=pictures\/moon.jpg srcset="pictures\/moon-90w.jpg 90w, /,
    );
    built.write('index.html', page(own + picture));
    // Without variants, the page is what its pipeline makes.
    built.write('anvil.yaml', project('{ formats: avif }').replace('variants: {', 'variants: { only: development,'));
    await built.build();
    expect(built.read('site/index.html')).not.toContain('avif');
  });

  it('look like the picture: turned, in its colours, with sharp edges; some pictures have none', async () => {
    const wide = await raw(120, 80).withIccProfile('p3').png().toBuffer();
    const turned = await raw(120, 80).withMetadata({ orientation: 6 }).jpeg({ quality: 95 }).toBuffer();
    const frames = await sharp(Buffer.from([0, 255, 0, 0, 0, 255]), {
      raw: { width: 1, height: 2, channels: 3, pageHeight: 1 },
    })
      .webp({ delay: [100, 100] })
      .toBuffer();
    const damaged = (await photograph(300, 200)).subarray(0, 900);
    const built = TestProject.withPackages({
      'anvil.yaml': project('{ widths: 60, formats: webp, quality: { webp: 95, jpeg: 95 } }'),
      'index.html': page(''),
      ...{ 'pictures/wide.png': wide, 'pictures/turned.jpg': turned, 'pictures/frames.webp': frames },
      ...{ 'pictures/damaged.jpg': damaged, 'pictures/text.png': 'a text' },
    });
    const { said } = await built.diagnose();
    expect([...new Set(said)].sort()).toEqual(
      ['damaged.jpg', 'text.png'].map((name) => `pictures/${name}: warning [picture-damaged]`),
    );
    const names = built.files('site/pictures').map((path) => path.replace(/^.*\/|-\w{10}(?=\.)/g, ''));
    expect(names.sort()).toEqual(
      ['damaged.jpg', 'frames.webp', 'text.png']
        .concat(['turned-60w.jpg', 'turned-60w.webp', 'turned.jpg', 'turned.webp'])
        .concat(['wide-60w.png', 'wide-60w.webp', 'wide.png', 'wide.webp']),
    );
    const window = await browser.newPage();
    const colours = (name: string): Promise<number[]> => {
      const path = built.files('site/pictures').find((one) => one.replace(/-\w{10}(?=\.)/, '').endsWith(`/${name}`))!;
      return window.evaluate(
        async (url) => {
          const image = new Image();
          image.src = url;
          await image.decode();
          const canvas = new OffscreenCanvas(6, 6);
          const drawing = canvas.getContext('2d')!;
          drawing.imageSmoothingQuality = 'high';
          drawing.drawImage(image, 0, 0, 6, 6);
          return [image.naturalWidth / image.naturalHeight, ...drawing.getImageData(0, 0, 6, 6).data];
        },
        `data:image/${path.endsWith('jpg') ? 'jpeg' : path.slice(-4).replace('.', '')};base64,${built.bytes(path).toString('base64')}`,
      );
    };
    for (const name of ['turned', 'wide']) {
      const expected = await colours(name === 'wide' ? 'wide.png' : 'turned.jpg');
      for (const variant of ['-60w.webp', '.webp', name === 'wide' ? '-60w.png' : '-60w.jpg']) {
        const found = await colours(name + variant);
        expect(Math.max(...found.map((value, at) => Math.abs(value - expected[at]!))), name + variant).toBeLessThan(12);
      }
    }
  });

  it('need a package that the project installs, and widths or formats', async () => {
    const built = new TestProject({
      'anvil.yaml': project('{ widths: 60 }'),
      'pictures/moon.jpg': await photograph(90, 60),
      'index.html': page(''),
    });
    const { code, said } = await built.diagnose();
    expect([code, said]).toEqual([1, ['pictures/moon.jpg: error [package-missing]']]);
    built.write('anvil.yaml', project('{ widths: [60, 0], quality: { webp: 101, png: 3 }, formats: jpeg }'));
    expect((await built.diagnose()).said).toEqual([
      'anvil.yaml:4:89: error [wrong-type]',
      'anvil.yaml:4:110: error [wrong-type]',
      'anvil.yaml:4:115: error [key-form]',
      'anvil.yaml:4:134: error [wrong-type]',
    ]);
  });

  it('are made and offered as the documentation says', async () => {
    const text = readFileSync(new URL('../docs/pictures.md', import.meta.url), 'utf8');
    const shown = /^```html\n(<picture.*) …\n```$/m.exec(text)![1]!;
    const built = TestProject.withPackages({
      ...Object.fromEntries(fileBlocks(text).map((one) => [one.file, one.text])),
      'pictures/moon.jpg': await photograph(1000, 300),
    });
    await built.build('--config', 'anvil-variants.yaml');
    expect(built.read('site/index.html')).toContain(`\n${shown} `);
    expect(built.files('site/pictures').map((path) => path.slice('site/pictures/'.length))).toEqual([
      ...['moon-480w.avif', 'moon-480w.jpg', 'moon-480w.webp', 'moon-960w.avif', 'moon-960w.jpg', 'moon-960w.webp'],
      ...['moon.avif', 'moon.jpg', 'moon.webp'],
    ]);
  });
});
