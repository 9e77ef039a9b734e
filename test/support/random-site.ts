// Random sites as they are before the tool is used: pages and their files, in folders of many kinds.
import fc from 'fast-check';

/** A site, and its files that no page refers to. */
export interface RandomSite {
  readonly files: Readonly<Record<string, string | Uint8Array>>;
  /** Paths that must not be published. */
  readonly secrets: readonly string[];
}

const picture = Buffer.from(
  'iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR42mNk+M9QDwADhgGAWjR9awAAAABJRU5ErkJggg==',
  'base64',
);

/** The layout of a site: where files are, and how pages refer to them. */
const layout = fc.record({
  /** The folder of the pages. */
  root: fc.constantFrom('', 'public/', 'src/', 'pages/', 'www/'),
  /** True if sheets and scripts lie where pages request them, or in folders of their own. */
  isBeside: fc.boolean(),
  style: fc.constantFrom('css', 'scss'),
  script: fc.constantFrom('js', 'ts', 'mjs'),
  styleAddress: fc.constantFrom('css/', 'assets/', 'static/css/', ''),
  scriptAddress: fc.constantFrom('js/', 'assets/', 'code/deep/', ''),
  hasVendor: fc.boolean(),
  hasImports: fc.boolean(),
  hasSubpage: fc.boolean(),
  isRooted: fc.boolean(),
  hasManifest: fc.boolean(),
  ignored: fc.constantFrom('', 'dist\n', '/build/\n'),
});

/** Random sites whose every reference leads to a file, before or after compiling. */
export const randomSite: fc.Arbitrary<RandomSite> = layout.map((one) => {
  const files: Record<string, string | Uint8Array> = {};
  const styles = one.isBeside ? one.root + one.styleAddress : 'styles/';
  const scripts = one.isBeside ? one.root + one.scriptAddress : 'scripts/';
  const up = (address: string): string => '../'.repeat(address.split('/').length - 1);
  const at = (address: string, from: string): string => (one.isRooted ? `/${address}` : from + address);

  const font = `${one.styleAddress}fonts/stars.woff`;
  files[one.isBeside ? `${styles}fonts/stars.woff` : `${one.root}${font}`] = 'font';
  files[`${one.root}pictures/dome.png`] = picture;
  const sheet = `body { background: url(${up(one.styleAddress)}pictures/dome.png); font-family: stars }
@font-face { font-family: stars; src: url("fonts/stars.woff") }\n`;
  files[`${styles}site.${one.style}`] = one.style === 'scss' ? `@use 'night';\n${sheet}` : sheet;
  if (one.style === 'scss') files[`${styles}_night.scss`] = '$ink: navy;\np { color: $ink }\n';

  const extension = one.script === 'mjs' ? 'mjs' : 'js';
  const isModule = one.hasImports || one.script !== 'js';
  const specifier = one.script === 'ts' ? './parts/sky' : `./parts/sky.${extension}`;
  files[`${scripts}main.${one.script}`] = one.hasImports
    ? `import { sky } from '${specifier}';\nconsole.log(sky);\n`
    : "console.log('clear');\n";
  if (one.hasImports) files[`${scripts}parts/sky.${one.script}`] = "export const sky = 'clear';\n";

  const vendor = one.root === '' ? 'vendor/' : `${one.root}vendor/`;
  if (one.hasVendor) {
    files[`${vendor}icons/css/icons.css`] =
      "@font-face { font-family: i; src: url('../fonts/i.woff') }\nb { font: 1em i }\n";
    files[`${vendor}icons/fonts/i.woff`] = 'font';
    files[`${vendor}lantern.min.js`] = 'window.lantern=1\n';
  }
  const head = (from: string): string =>
    [
      `<link rel="stylesheet" href="${at(`${one.styleAddress}site.css`, from)}">`,
      `<script ${isModule ? 'type="module" ' : ''}src="${at(`${one.scriptAddress}main.${extension}`, from)}"></script>`,
      ...(one.hasVendor
        ? [
            `<link rel="stylesheet" href="${at('vendor/icons/css/icons.css', from)}">`,
            `<script src="${at('vendor/lantern.min.js', from)}" defer></script>`,
          ]
        : []),
      ...(one.hasManifest ? [`<link rel="manifest" href="${at('site.webmanifest', from)}">`] : []),
    ].join('\n');
  const page = (from: string, more: string): string =>
    `<!doctype html>\n<html><head><title>Fernlight</title>\n${head(from)}\n</head><body><p>sky <b>x</b></p><img src="${at('pictures/dome.png', from)}">${more}</body></html>\n`;
  const link = one.hasSubpage
    ? `<a href="${at('visit/', '')}">visit</a> <a href="${at('papers/map.pdf', '')}">map</a>`
    : '';
  files[`${one.root}index.html`] = page('', link);
  if (one.hasSubpage) {
    files[`${one.root}visit/index.html`] = page('../', '');
    files[`${one.root}papers/map.pdf`] = '%PDF';
  }
  files[`${one.root}robots.txt`] = 'User-agent: *\n';
  if (one.hasManifest) {
    files[`${one.root}site.webmanifest`] = '{ "icons": [{ "src": "pictures/icon.png" }] }';
    files[`${one.root}pictures/icon.png`] = picture;
  }
  if (one.ignored !== '') files['.gitignore'] = `node_modules\n${one.ignored}`;
  const secrets = {
    'server.js': "const password = 'secret';\n",
    'config.js': "module.exports = { password: 'secret' };\n",
    'tools/deploy.js': 'deploy()\n',
    'notes.txt': 'secret\n',
    [`${styles}old.css`]: 'old { }\n',
    'package.json': '{ "name": "site", "scripts": { "deploy": "node tools/deploy.js" } }\n',
  };
  return { files: { ...files, ...secrets }, secrets: Object.keys(secrets) };
});
