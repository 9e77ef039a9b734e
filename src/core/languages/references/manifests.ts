import { JsonNode } from './json-texts.js';
import type { Reference, ReferenceUse } from './reference.js';

/** The URLs in a web app manifest (Web Application Manifest, section 1; Manifest Incubations). */
export function manifestReferences(text: string): Reference[] {
  const found: Reference[] = [];
  const root = JsonNode.parse(text);
  if (!root) return found;
  const add = (node: JsonNode, use: ReferenceUse): void => {
    const { text: url } = node;
    if (url) found.push({ use, url: url.value, start: url.start, end: url.end });
  };
  const addImages = (node: JsonNode): void => {
    for (const image of node.items) add(image.member('src'), 'file');
  };
  for (const [name, value] of root.members)
    switch (name) {
      case 'start_url':
        add(value, 'page');
        break;
      case 'icons':
      case 'screenshots':
        addImages(value);
        break;
      case 'shortcuts':
        for (const shortcut of value.items) {
          add(shortcut.member('url'), 'page');
          addImages(shortcut.member('icons'));
        }
        break;
      case 'share_target':
        add(value.member('action'), 'endpoint');
        break;
      case 'file_handlers':
        for (const handler of value.items) add(handler.member('action'), 'endpoint');
    }
  return found;
}
