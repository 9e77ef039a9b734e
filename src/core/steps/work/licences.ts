import { escapeUTF8 } from 'entities';
import { posix } from 'node:path';
import type { Asset } from '../../assets/asset.js';
import type { StepContext } from '../../assets/context.js';
import { diagnostic } from '../../diagnostics/index.js';
import { byCodeUnits } from '../../files/globs.js';
import { packageOf } from '../../files/package-folder.js';
import { decodeText, encodeText } from '../../files/text.js';
import { extensionOf } from '../../languages/formats.js';

/** The licence of a package. */
interface Licence {
  readonly name: string;
  readonly version: string;
  /** As package.json names it, e.g. `MIT` (an SPDX expression). */
  readonly expression: string | undefined;
  /** The contents of its licence files. */
  readonly texts: readonly string[];
}

/** Names of licence files. */
const licenceFile = /^(un)?licen[cs]es?\b|^copying\b|^notice\b/i;

/** Makes a page of the licences of the packages that assets come from. */
export function licencePage(assets: readonly Asset[], page: string, context: StepContext): Asset {
  const sources = assets.flatMap(({ linked, origins }) => linked?.map(({ source }) => source) ?? origins);
  const packages = new Map(sources.flatMap((path) => packageOf(path) ?? []).map((one) => [one.folder, one.name]));
  const folders = [...packages.keys()].sort(byCodeUnits);
  const all = new Map<string, Licence>();
  for (const folder of folders) {
    const found = licenceOf(folder, packages.get(folder)!, context);
    // Several copies of one version have one licence.
    if (found) all.set(`${found.name} ${found.version}`, found);
  }
  const sorted = [...all].sort(([a], [b]) => byCodeUnits(a, b)).map(([, licence]) => licence);
  const text = extensionOf(page) === 'html' ? asPage(sorted) : asText(sorted);
  return { id: page, path: page, bytes: encodeText(text), origins: folders.map(manifestIn), isPristine: false };
}

const manifestIn = (folder: string): string => posix.join(folder, 'package.json');

function licenceOf(folder: string, installedAs: string, context: StepContext): Licence | undefined {
  const path = manifestIn(folder);
  const bytes = context.read(path);
  if (!bytes) return undefined;
  const { name, version, license } = manifestOf(decodeText(bytes, path));
  const files = context.list(`${folder}/*`).filter((file) => licenceFile.test(posix.basename(file)));
  const texts = files.map((file) => textOfLicence(context.read(file) ?? new Uint8Array()).trim());
  const packageName = typeof name === 'string' ? name : installedAs;
  // Once it was an object, e.g. `{ "type": "MIT" }`.
  const named = typeof license === 'object' && license !== null ? (license as { type?: unknown }).type : license;
  const expression = typeof named === 'string' && named !== '' ? named : undefined;
  if (expression === undefined && texts.length === 0)
    context.report(diagnostic('licence-missing', { name: packageName }, { file: path }));
  return { name: packageName, version: typeof version === 'string' ? version : '', expression, texts };
}

/** A text in UTF-8, or else in the encoding that old texts have: nobody can correct the file of a package. */
function textOfLicence(bytes: Uint8Array): string {
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}

function manifestOf(text: string): Readonly<Record<string, unknown>> {
  try {
    const value = JSON.parse(text) as unknown;
    return typeof value === 'object' && value !== null ? (value as Record<string, unknown>) : {};
  } catch {
    return {};
  }
}

const titleOf = ({ name, version, expression }: Licence): string =>
  [`${name} ${version}`.trim(), ...(expression === undefined ? [] : [expression])].join(', ');

function asText(licences: readonly Licence[]): string {
  return licences.map((one) => [titleOf(one), ...one.texts].join('\n\n') + '\n').join('\n----\n\n');
}

function asPage(licences: readonly Licence[]): string {
  const sections = licences.map((one) => {
    const texts = one.texts.map((text) => `<pre>${escapeUTF8(text)}</pre>\n`).join('');
    return `<section>\n<h2>${escapeUTF8(titleOf(one))}</h2>\n${texts}</section>\n`;
  });
  return `<!doctype html>
<html lang="en">
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>Licences</title>
<style>
  :root { color-scheme: light dark; font-family: system-ui, sans-serif; }
  body { max-width: 50rem; margin: 2rem auto; padding: 0 1rem; }
  pre { white-space: pre-wrap; overflow-wrap: anywhere; }
</style>
<h1>Licences</h1>
${sections.join('')}</html>
`;
}
