import { List, type CssNode, type CssNodePlain } from 'css-tree';

/**
 * Converts the parser's lists to arrays, in place. The parser's own function looks up the structure of every node;
 * skipping leaf nodes takes a fifth of the time. (Its array mode omits white space between selectors.)
 */
export function plainTree(node: CssNode): CssNodePlain {
  convert(node as unknown as LooseNode);
  return node as unknown as CssNodePlain;
}

type LooseNode = Record<string, unknown> & { readonly type: string };

function convert(node: LooseNode): void {
  if (isLeaf(node.type)) return;
  for (const key in node) {
    const value = node[key];
    if (typeof value !== 'object' || value === null || key === 'loc') continue;
    if (value instanceof List) node[key] = arrayOf(value as unknown as LinkedNodes);
    else convert(value as LooseNode);
  }
}

/** The parser's list, as its documentation describes it. */
interface LinkedNodes {
  readonly head: Link | null;
}

interface Link {
  readonly data: LooseNode;
  readonly next: Link | null;
}

function arrayOf(list: LinkedNodes): LooseNode[] {
  const { head } = list;
  if (head && !head.next) {
    convert(head.data);
    // A growing array reserves more space than most lists need.
    return [head.data];
  }
  const array: LooseNode[] = [];
  for (let item = head; item; item = item.next) {
    convert(item.data);
    array.push(item.data);
  }
  return array;
}

/** The most frequent types of nodes without children. */
function isLeaf(type: string): boolean {
  switch (type) {
    case 'ClassSelector':
    case 'Combinator':
    case 'Dimension':
    case 'Hash':
    case 'Identifier':
    case 'Number':
    case 'Operator':
    case 'Percentage':
    case 'String':
    case 'TypeSelector':
    case 'Url':
      return true;
    default:
      return false;
  }
}
