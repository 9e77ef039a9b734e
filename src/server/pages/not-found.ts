import { readdirSync, type Dirent } from 'node:fs';
import { join, posix } from 'node:path';
import { distance } from 'fastest-levenshtein';
import { indexPage, urlOf } from '../lookup.js';
import { drawPage, escapeText } from './page.js';

/** The maximum number of compared files, and of suggestions. */
const maxFiles = 5000;
const offered = 8;

/**
 * The page for a missing file: shows the searched path and lists files with similar names.
 *
 * @param root the served folder, absolute; undefined if there is none
 * @param folder its name in the project
 * @param path of the missing file, relative to the folder
 */
export function notFoundPage(root: string | undefined, folder: string, path: string): string {
  const files = root === undefined ? [] : filesBelow(root);
  const near = nearest(path, files);
  const list = near.map((one) => `<li><a href="${escapeText(urlOf(one))}">/${escapeText(one)}</a></li>`).join('\n');
  const looked = `<p>There is no file <code>${escapeText(posix.join(folder, path))}</code>.</p>`;
  const body =
    files.length === 0
      ? `<p>The folder has no files yet. This page shows itself again when a build has written them.</p>`
      : near.length > 0
        ? `<p>Similar paths:</p>\n<ul>\n${list}\n</ul>`
        : '';
  const wait = '<p class="faint">When a build writes the file, this page shows it.</p>';
  const asked = posix.basename(path) === indexPage ? path.slice(0, -indexPage.length) : path;
  return drawPage({ title: `Nothing at /${asked}`, body: `${looked}\n${body}\n${wait}` });
}

/** Sorts files by the similarity of their paths or names, and returns the most similar ones. */
function nearest(path: string, files: readonly string[]): string[] {
  const wanted = path.toLowerCase();
  const rank = (file: string): number => {
    const lower = file.toLowerCase();
    // For a folder without a page, all its files are listed.
    const folder = posix.dirname(wanted);
    if (posix.basename(wanted) === indexPage && folder !== '.' && lower.startsWith(`${folder}/`)) return 0;
    return Math.min(apart(lower, wanted), apart(stem(lower), stem(wanted)) + 0.1);
  };
  return files
    .map((file) => ({ file, rank: rank(file) }))
    .filter((one) => one.rank <= 0.5)
    .sort((a, b) => a.rank - b.rank || (a.file < b.file ? -1 : 1))
    .slice(0, offered)
    .map((one) => one.file);
}

/** The share of letters that differ. */
const apart = (a: string, b: string): number => distance(a, b) / Math.max(1, a.length, b.length);

/** The name of a file without its extension; for the page of a folder, the name of the folder. */
function stem(path: string): string {
  const name = posix.basename(path);
  return name === indexPage ? posix.basename(posix.dirname(path)) : posix.basename(path, posix.extname(path));
}

/** Lists served files up to a maximum number, closest first; source maps are omitted. */
function filesBelow(root: string): string[] {
  const found: string[] = [];
  const folders = [''];
  for (let folder = folders.shift(); folder !== undefined && found.length < maxFiles; folder = folders.shift()) {
    for (const entry of entries(join(root, folder))) {
      if (entry.name.startsWith('.') || entry.name.endsWith('.map')) continue;
      const path = posix.join(folder, entry.name);
      if (entry.isDirectory()) folders.push(path);
      else if (entry.isFile()) found.push(path);
    }
  }
  return found.sort();
}

function entries(folder: string): Dirent[] {
  try {
    return readdirSync(folder, { withFileTypes: true });
  } catch {
    return [];
  }
}
