import { allRoots, allSheets } from './roots.js';
import { declarations, freshAddresses } from './addresses.js';
import { freshUrl, type IsOfFile } from './fresh-url.js';

/** Attributes that hold the URL of an image, and the elements that have them. */
const attributes: readonly (readonly [selector: string, name: string])[] = [
  ['img[src], input[type="image" i][src], embed[src]', 'src'],
  ['video[poster]', 'poster'],
  ['object[data]', 'data'],
  ['link[rel~="icon" i][href], link[rel~="apple-touch-icon" i][href]', 'href'],
  ['image[href], use[href], feImage[href]', 'href'],
];

/** Attributes that contain image candidates (HTML, section 4.8.4.2.1). */
const candidateLists: readonly (readonly [selector: string, name: string])[] = [
  ['img[srcset], source[srcset]', 'srcset'],
];

/** Replaces an image in elements, style attributes and style sheets. */
export function swapImages(isOf: IsOfFile): boolean {
  let count = 0;
  for (const root of allRoots()) {
    for (const [selector, name] of attributes)
      for (const element of root.querySelectorAll(selector)) count += swapAttribute(element, name, isOf);
    for (const [selector, name] of candidateLists)
      for (const element of root.querySelectorAll(selector)) count += swapCandidates(element, name, isOf);
    for (const element of root.querySelectorAll<HTMLElement>('[style*="url(" i]'))
      count += swapDeclarations(element.style, document.baseURI, isOf);
  }
  for (const { sheet, base } of allSheets())
    for (const style of declarations(sheet)) count += swapDeclarations(style, base, isOf);
  return count > 0;
}

function swapAttribute(element: Element, name: string, isOf: IsOfFile): number {
  const url = element.getAttribute(name)!;
  if (!isOf(url)) return 0;
  element.setAttribute(name, freshUrl(url));
  return 1;
}

function swapCandidates(element: Element, name: string, isOf: IsOfFile): number {
  let count = 0;
  const fresh = element.getAttribute(name)!.replace(/[^\s,]\S*[^\s,]|[^\s,]/g, (word) => {
    // Width and density descriptors look like file names, but are not URLs.
    if (/^[\d.]+[wx]$/.test(word) || !isOf(word)) return word;
    count++;
    return freshUrl(word);
  });
  if (count > 0) element.setAttribute(name, fresh);
  return count;
}

function swapDeclarations(style: CSSStyleDeclaration, base: string, isOf: IsOfFile): number {
  let count = 0;
  for (const name of [...style]) {
    const value = style.getPropertyValue(name);
    const fresh = freshAddresses(value, base, isOf);
    if (fresh === value) continue;
    style.setProperty(name, fresh, style.getPropertyPriority(name));
    count++;
  }
  return count;
}
