import type { Change } from '../message.js';
import { swapFonts } from './fonts.js';
import { swapImages } from './images.js';
import { swapStyles } from './styles.js';
import type { UsedFiles } from './used-files.js';

/**
 * Replaces the content of a changed file everywhere in the page.
 *
 * @returns true if the file was in use and every use of it was replaced
 */
export async function swap({ url, kind }: Change, used: UsedFiles): Promise<boolean> {
  const isOf = (one: string, base = document.baseURI): boolean => used.isOf(one, base, url);
  switch (kind) {
    case 'style':
      return swapStyles(isOf);
    case 'image':
      return swapImages(isOf);
    case 'font':
      return swapFonts(isOf);
    case 'other':
      return false;
  }
}
