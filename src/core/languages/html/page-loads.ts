import { attributeOf, htmlNamespace, isElement, nodesOf, parsePage, type Element } from './tree.js';

/** A file that a page loads. */
export interface PageLoad {
  readonly kind: 'style' | 'script' | 'module';
  /** As written. */
  readonly url: string;
  /**
   * True if browsers show nothing of the page before it is there: style sheets for the screen, and scripts in the head that
   * are neither modules nor `async` or `defer` (HTML, sections 4.2.4 and 4.12.1, "render-blocking").
   */
  readonly isBlocking: boolean;
}

/** The style sheets and scripts that a page loads, in order. */
export function pageLoads(html: string): readonly PageLoad[] {
  const found: PageLoad[] = [];
  let isInHead = true;
  for (const node of nodesOf(parsePage(html))) {
    if (!isElement(node) || node.namespaceURI !== htmlNamespace) continue;
    if (node.tagName === 'body') isInHead = false;
    const load = node.tagName === 'link' ? sheet(node) : node.tagName === 'script' ? script(node, isInHead) : undefined;
    if (load) found.push(load);
  }
  return found;
}

function sheet(link: Element): PageLoad | undefined {
  const url = attributeOf(link, 'href');
  const rel = (attributeOf(link, 'rel') ?? '').toLowerCase().split(/\s+/);
  if (url === undefined || !rel.includes('stylesheet') || rel.includes('alternate')) return undefined;
  // Other media queries may match, so that the sheet is waited for.
  const isForScreen = !/^\s*(print|speech)\s*$/i.test(attributeOf(link, 'media') ?? '');
  return { kind: 'style', url, isBlocking: isForScreen && attributeOf(link, 'disabled') === undefined };
}

function script(element: Element, isInHead: boolean): PageLoad | undefined {
  const url = attributeOf(element, 'src');
  if (url === undefined) return undefined;
  const has = (name: string): boolean => attributeOf(element, name) !== undefined;
  const isModule = attributeOf(element, 'type')?.trim().toLowerCase() === 'module';
  return {
    kind: isModule ? 'module' : 'script',
    url,
    isBlocking: isInHead && !isModule && !has('async') && !has('defer'),
  };
}
