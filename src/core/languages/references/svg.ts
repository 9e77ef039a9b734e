import { LocatedText } from './located-text.js';
import { moved, type Reference } from './reference.js';
import { styleReferences } from './styles.js';
import { scanXml } from './xml.js';

/** Attributes of SVG whose values may contain `url()` (SVG 2, "presentation attributes"). */
const paintAttributes = /^(style|fill|stroke|filter|mask|clip-path|marker(-start|-mid|-end)?|cursor)$/;

/** The URLs in an SVG file (SVG 2, section 16; Associating Style Sheets with XML documents). */
export function svgReferences(text: string): Reference[] {
  const found: Reference[] = [];
  const addStyles = (raw: string, start: number): void => {
    if (!/url|@import|image-set/i.test(raw)) return;
    const placed = LocatedText.inXml(raw, start);
    for (const one of styleReferences(placed.value)) found.push({ ...one, ...placed.range(one.start, one.end) });
  };
  scanXml(text, {
    attribute(element, name, raw, start) {
      const local = name.replace(/^.*:/, '');
      if (local === 'href' && (name === 'href' || name === 'xlink:href')) {
        const placed = LocatedText.inXml(raw, start);
        const use = element.replace(/^.*:/, '') === 'a' ? 'page' : 'file';
        found.push({ use, url: placed.value, ...placed.range(0, placed.value.length) });
      } else if (paintAttributes.test(name)) addStyles(raw, start);
    },
    text(element, raw, start, isData) {
      if (element.replace(/^.*:/, '') !== 'style') return;
      if (isData) found.push(...moved(styleReferences(raw), start));
      else addStyles(raw, start);
    },
    instruction(target, raw, start) {
      const href = target === 'xml-stylesheet' ? /\bhref\s*=\s*(["'])(.*?)\1/s.exec(raw) : null;
      if (!href) return;
      const at = start + href.index + href[0].indexOf(href[1]!) + 1;
      const placed = LocatedText.inXml(href[2]!, at);
      found.push({ use: 'file', url: placed.value, ...placed.range(0, placed.value.length) });
    },
  });
  return found.sort((a, b) => a.start - b.start);
}
