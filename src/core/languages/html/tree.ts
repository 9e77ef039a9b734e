import { parse, type DefaultTreeAdapterTypes as Tree } from 'parse5';

export type Node = Tree.ChildNode | Tree.Document;
export type Element = Tree.Element;
export type TextNode = Tree.TextNode;
export type CommentNode = Tree.CommentNode;
export type Parent = Tree.ParentNode;

/** The namespace of HTML elements. */
export const htmlNamespace = 'http://www.w3.org/1999/xhtml';

/**
 * Parses a page, with the offsets of everything in it. The content of `noscript` is parsed as it is without scripts.
 */
export function parsePage(text: string): Tree.Document {
  return parse(text, { sourceCodeLocationInfo: true, scriptingEnabled: false });
}

export const isElement = (node: Tree.Node): node is Element => 'tagName' in node;
export const isText = (node: Tree.Node): node is TextNode => node.nodeName === '#text';
export const isComment = (node: Tree.Node): node is CommentNode => node.nodeName === '#comment';

/** The children of a node; those of a template are in its content. */
export function childrenOf(node: Tree.Node): readonly Tree.ChildNode[] {
  if ('content' in node) return node.content.childNodes;
  return 'childNodes' in node ? node.childNodes : [];
}

/** Visits a tree, without recursion: pages may be nested deeply. */
export function* nodesOf(root: Tree.Node): Iterable<Tree.Node> {
  const open: Tree.Node[] = [root];
  for (let node = open.pop(); node; node = open.pop()) {
    yield node;
    open.push(...childrenOf(node).toReversed());
  }
}

/** The value of an attribute. */
export const attributeOf = (element: Element, name: string): string | undefined =>
  element.attrs.find((one) => one.name === name)?.value;
