import { brotliDecompressSync, gunzipSync } from 'node:zlib';
import { afterEach, describe, expect, it } from 'vitest';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

const script = `export const stars = ${JSON.stringify(Array.from({ length: 400 }, (_, at) => `star ${String(at * at)}`))};\n`;

const site = (): TestProject =>
  new TestProject({
    'anvil.yaml': `profiles:
  production: { compress: [br, gzip], maps: file }
pipelines:
  scripts: { from: src/*.js, to: site/js, steps: [minify] }
  pages: { from: 'src/*.{html,txt,png,svg}', to: site, compress: gzip }
  plain: { from: src/*.json, to: site, compress: none }
serve: { folder: site }
`,
    'src/large.js': script,
    'src/small.js': 'export const a = 1;\n',
    'src/large.html': `<!doctype html><title>Fernlight</title>${'<p>Fernlight Observatory</p>\n'.repeat(60)}`,
    'src/large.txt': 'Lantern\n'.repeat(200),
    'src/large.svg': `<svg>${'<g></g>'.repeat(300)}</svg>`,
    'src/noise.txt': Uint8Array.from({ length: 1500 }, (_, at) => (at * at * 31 + (at >> 3) * 17) % 251),
    'src/large.png': Buffer.alloc(4000),
    'src/large.json': `[${'1,'.repeat(2000)}1]`,
  });

let serve: Serve | undefined;
afterEach(async () => {
  await serve?.end();
  serve = undefined;
});

describe('compressed outputs', () => {
  it('are beside text outputs from 1 kB on, have the same content, and only exist where a profile asks for them', async () => {
    const project = site();
    const { stdout } = await project.build();
    const compressed = project.files('site').filter((path) => /\.(br|gz)$/.test(path));
    expect(compressed).toEqual([
      'site/js/large.js.br',
      'site/js/large.js.gz',
      'site/js/large.js.map.br',
      'site/js/large.js.map.gz',
      'site/large.html.gz',
      'site/large.svg.gz',
      'site/large.txt.gz',
    ]);
    for (const path of compressed) {
      const content = (path.endsWith('.br') ? brotliDecompressSync : gunzipSync)(project.bytes(path));
      expect(content.equals(project.bytes(path.replace(/\.\w+$/, ''))), path).toBe(true);
    }
    // Neither a time nor a system is in the header (RFC 1952, section 2.3.1).
    expect([...project.bytes('site/large.txt.gz').subarray(0, 10)]).toEqual([31, 139, 8, 0, 0, 0, 0, 0, 2, 255]);
    expect(stdout).toMatch(/^scripts +2 sources +→ 8 outputs/m);
    // Removed from the disk, they are written again without compressing anything.
    const before = project.bytes('site/js/large.js.br');
    await project.run(['clean']);
    await project.build();
    expect(project.bytes('site/js/large.js.br').equals(before)).toBe(true);
    project.write('src/large.txt', 'Moss\n'.repeat(400));
    await project.build();
    expect(gunzipSync(project.bytes('site/large.txt.gz')).toString()).toBe(project.read('src/large.txt'));
    await project.build('--profile', 'development');
    expect(project.files('site').filter((path) => /\.(br|gz)$/.test(path))).toEqual([
      'site/large.html.gz',
      'site/large.svg.gz',
      'site/large.txt.gz',
    ]);
  });

  it('are no sources of other pipelines, and are forecast to be removed with their outputs', async () => {
    const project = site();
    project.write(
      'anvil.yaml',
      project.read('anvil.yaml').replace('serve:', "  again: { from: 'site/js/*', to: copies }\nserve:"),
    );
    await project.build();
    expect(project.files('copies').filter((path) => /js(\.br|\.gz)$/.test(path))).toEqual([
      'copies/large.js.br',
      'copies/large.js.gz',
    ]);
    project.write('src/large.js', 'export const few = 1;\n');
    project.write('src/large.txt', 'Moss\n'.repeat(400));
    const events = await project.events(['build', '--dry-run']);
    const scripts = events.find((one) => one['event'] === 'forecast' && one['name'] === 'scripts');
    expect(scripts).toMatchObject({
      mayWrite: ['', '.br', '.gz', '.map', '.map.br', '.map.gz'].map((end) => `site/js/large.js${end}`),
      remove: [],
    });
    const pages = events.find((one) => one['event'] === 'forecast' && one['name'] === 'pages');
    expect(pages).toMatchObject({ write: ['site/large.txt'], remove: [] });
    await project.build();
    expect(project.exists('site/js/large.js.br')).toBe(false);
  });

  it('are sent to clients that accept them, unless they are of another content', async () => {
    const project = site();
    serve = await Serve.open(project, ['--port', '0', '--profile', 'production']);
    const ask = async (accepted: string, path = '/js/large.js'): Promise<unknown[]> => {
      const { status, headers, body } = await serve!.ask(path, { 'accept-encoding': accepted });
      return [status, headers['content-encoding'], headers['content-type'], headers.vary, body.length];
    };
    const size = (path: string): number => project.bytes(path).length;
    const type = 'application/javascript; charset=utf-8';
    expect(await ask('gzip, br;q=0.5')).toEqual([200, 'br', type, 'Accept-Encoding', size('site/js/large.js.br')]);
    expect(await ask('br;q=0, *')).toEqual([200, 'gzip', type, 'Accept-Encoding', size('site/js/large.js.gz')]);
    expect(await ask('')).toEqual([200, undefined, type, 'Accept-Encoding', size('site/js/large.js')]);
    expect(await ask('br', '/js/small.js')).toEqual([200, undefined, type, undefined, size('site/js/small.js')]);
    project.write('site/js/large.js', 'edited by hand');
    expect(await ask('br')).toEqual([200, undefined, type, undefined, 14]);
    project.write('site/js/small.js.br', 'not written by the tool');
    expect((await ask('br', '/js/small.js'))[1]).toBeUndefined();
  });
});
