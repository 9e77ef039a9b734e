import { posix } from 'node:path';
import type { NewOutput } from '../files/publish.js';
import { encodeText } from '../files/text.js';
import { encodeMap } from '../maps/index.js';
import type { Maps } from '../project/settings.js';
import { kindOf, textOf, type Asset } from '../assets/asset.js';

/**
 * An asset as files to publish: itself, and its source map as the profile wants it. An asset that no step touched is
 * published byte for byte.
 *
 * @param to the pipeline's output folder
 */
export function outputsOf(asset: Asset, to: string, maps: Maps): NewOutput[] {
  const path = posix.join(to, asset.path);
  if (maps === 'none' || !asset.map || kindOf(asset.path) === 'other') return [{ path, bytes: asset.bytes }];
  const name = posix.basename(path);
  const map = `${JSON.stringify(encodeMap(asset.map, name, (source) => urlBetween(posix.dirname(path), source)))}\n`;
  const url =
    maps === 'inline'
      ? `data:application/json;base64,${Buffer.from(map.trimEnd()).toString('base64')}`
      : `${encodeURIComponent(name)}.map`;
  const output = { path, bytes: encodeText(`${textOf(asset).replace(/\n*$/, '\n')}${mapComment(asset.path, url)}\n`) };
  return maps === 'inline' ? [output] : [output, { path: `${path}.map`, bytes: encodeText(map) }];
}

/** A relative URL from a folder to a file, both relative to the project. */
function urlBetween(folder: string, file: string): string {
  return posix.relative(folder, file).split('/').map(encodeURIComponent).join('/');
}

function mapComment(path: string, url: string): string {
  return kindOf(path) === 'style' ? `/*# sourceMappingURL=${url} */` : `//# sourceMappingURL=${url}`;
}
