import type { CssNodePlain, DeclarationPlain } from 'css-tree';
import { PrintedText, type SourceMap } from '../../maps/index.js';
import { parseStyle } from '../parse.js';
import type { StyleProblem } from '../problem.js';
import { StylePrinter } from '../print/printer.js';
import { styleRewrites } from './index.js';
import type { ItemsContext, StyleRewrite, ValuePlace } from './rewrite.js';

/** A sheet made smaller. */
export interface MinifiedStyle {
  readonly text: string;
  readonly map: SourceMap | undefined;
  /** Parts that browsers skip, kept as written. */
  readonly skipped: readonly StyleProblem[];
}

/**
 * Makes a style sheet smaller without changing what a page looks like.
 *
 * @param source the name of the sheet in its source map; without it, no map is made
 * @throws StyleSyntaxError when the sheet has no structure to rely on
 */
export function minify(text: string, source: string | undefined): MinifiedStyle {
  const { sheet, comments, skipped } = parseStyle(text);
  const kept = comments.filter(({ start, end }) => isKept(text.slice(start + 2, end - 2)));

  const context = {
    ascii: /^[\0-\x7f]*$/.test(text),
    hasComment: (from: number, to: number) => kept.some(({ start }) => start >= from && start < to),
  };
  sheet.children = [...rewriteItems(sheet.children, context)];
  const out = new PrintedText(source, text);
  new StylePrinter(out, text, kept).sheet(sheet);
  return { text: out.text, map: out.map(), skipped };
}

/** Comments that stay: licences, and those marked with `!`. */
function isKept(comment: string): boolean {
  return comment.startsWith('!') || /@(license|licence|preserve|copyright)\b/i.test(comment);
}

const having = <K extends keyof StyleRewrite>(hook: K): NonNullable<StyleRewrite[K]>[] =>
  styleRewrites.flatMap((one) => one[hook] ?? []);
const componentHooks = having('component');
const declarationHooks = having('declaration');
const selectorHooks = having('selector');
const atRuleHooks = having('atRule');
const itemsHooks = having('items');

function rewriteItems(nodes: readonly CssNodePlain[], context: ItemsContext): readonly CssNodePlain[] {
  for (const node of nodes) {
    if (node.type === 'Declaration') rewriteDeclaration(node);
    else if (node.type === 'Rule') {
      rewriteSelectors(node.prelude);
      node.block.children = [...rewriteItems(node.block.children, context)];
    } else if (node.type === 'Atrule') {
      for (const hook of atRuleHooks) hook(node);
      if (node.block) node.block.children = [...rewriteItems(node.block.children, context)];
    }
  }
  return itemsHooks.reduce((left, hook) => hook(left, context), nodes);
}

function rewriteDeclaration(node: DeclarationPlain): void {
  if (node.value.type === 'Value') {
    node.value.children = rewriteComponents(node.value.children, {
      property: node.property.toLowerCase(),
      functions: [],
    });
  }
  for (const hook of declarationHooks) hook(node);
}

function rewriteComponents(nodes: readonly CssNodePlain[], place: ValuePlace): CssNodePlain[] {
  return nodes.map((node) => {
    if (node.type === 'Function') {
      node.children = rewriteComponents(node.children, {
        ...place,
        functions: [...place.functions, node.name.toLowerCase()],
      });
    } else if (node.type === 'Parentheses' || node.type === 'Brackets')
      node.children = rewriteComponents(node.children, place);
    return componentHooks.reduce((one, hook) => hook(one, place) ?? one, node);
  });
}

function rewriteSelectors(node: CssNodePlain): void {
  if (!('children' in node) || !node.children) return;
  node.children = node.children.map((child: CssNodePlain) => {
    rewriteSelectors(child);
    return selectorHooks.reduce((one, hook) => hook(one) ?? one, child);
  }) as never;
}
