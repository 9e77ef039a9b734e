import type { AtrulePlain, CssNodePlain, DeclarationPlain } from 'css-tree';
import { atRule } from '../at-rules.js';
import { holdsSubstitution } from '../cascade/value-text.js';
import { isValid } from '../cascade/validity.js';
import { isAscii, PrintedText, type SourceMap } from '../../source-maps/index.js';
import { anyWithin } from '../offsets.js';
import { isAtRule } from '../at-rules.js';
import { parseStyle, type StyleComment } from '../parse.js';
import type { StyleProblem } from '../problem.js';
import { StylePrinter } from '../print/printer.js';
import { StyleSupport } from '../support/support.js';
import { styleRewrites } from './index.js';
import type { ItemsContext, NodeHooks, StyleRewrite, ValuePlace } from './rewrite.js';

/** A sheet made smaller. */
export interface MinifiedStyle {
  readonly text: string;
  readonly map: SourceMap | undefined;
  /** Parts that browsers ignore, kept as is. */
  readonly skipped: readonly StyleProblem[];
}

/**
 * Minifies a style sheet without changing the rendering of pages.
 *
 * @param browsers resolved target browsers, such as `safari 17.4`
 * @param source the name of the sheet in its source map; undefined for no source map
 * @param ascii true to escape all characters outside ASCII, except in comments; by default if the sheet is ASCII
 * @throws StyleSyntaxError if the sheet cannot be parsed
 */
export function minifyStyle(
  text: string,
  browsers: readonly string[],
  source: string | undefined,
  ascii = isAscii(text.replace(/^\uFEFF/, '')),
): MinifiedStyle {
  const { sheet, comments, skipped } = parseStyle(text, source !== undefined || mayKeepInside(text));
  const kept = comments.filter(({ start, end }) => isKept(text.slice(start + 2, end - 2)));
  const rewriter = new Rewriter(kept, StyleSupport.of(browsers), ascii);
  // Browsers ignore it in another form, which printing must not make effective (CSS Syntax Level 3, section 3.2).
  const hasCharset = /^\uFEFF?@charset "[^"]*";/.test(text);
  const children = hasCharset ? sheet.children : sheet.children.filter((node) => !isAtRule(node, 'charset'));
  sheet.children = rewriter.items(children, undefined);
  const out = new PrintedText(source, text);
  new StylePrinter(out, text, kept, ascii).sheet(sheet);
  return { text: out.text, map: out.map(), skipped };
}

/** Preserved comments: licences, and those marked with `!`. */
function isKept(comment: string): boolean {
  return comment.startsWith('!') || /@(license|licence|preserve|copyright)\b/i.test(comment);
}

/** Reports whether comments after the head of a sheet have to be kept. */
function mayKeepInside(text: string): boolean {
  let head = 0;
  for (;;) {
    while (head < text.length && /\s/.test(text[head]!)) head++;
    const end = text.startsWith('/*', head) ? text.indexOf('*/', head + 2) : -1;
    if (end < 0) break;
    head = end + 2;
  }
  return /\/\*!|@(license|licence|preserve|copyright)\b/i.test(text.slice(head));
}

/** Nothing gets shorter for ever; this many rounds are more than any sheet needs. */
const maxRounds = 12;

const componentHooks = byType(styleRewrites.flatMap((one) => one.component ?? []));
/** Rewrites that also apply to values whose references are unresolved. */
const textHooks = byType(styleRewrites.flatMap((one) => (one.keepsText && one.component) || []));
const selectorHooks = byType(styleRewrites.flatMap((one) => one.selector ?? []));
const declarationRewrites = styleRewrites.filter(({ declaration }) => declaration);
const atRuleHooks = styleRewrites.flatMap((one) => one.atRule ?? []);
const blockHooks = styleRewrites.flatMap((one) => one.block ?? []);
const rulesHooks = styleRewrites.flatMap((one) => one.rules ?? []);
const listHooks = [...blockHooks, ...rulesHooks];

type Hook<Place> = (node: CssNodePlain, place: Place) => CssNodePlain | undefined;

function byType<Place>(all: readonly NodeHooks<Place>[]): Map<string, Hook<Place>[]> {
  const hooks = new Map<string, Hook<Place>[]>();
  for (const one of all)
    for (const [type, hook] of Object.entries(one)) hooks.set(type, [...(hooks.get(type) ?? []), hook as Hook<Place>]);
  return hooks;
}

/** Applies every rewrite to a tree, from the leaves up, each list of rules until nothing gets shorter any more. */
class Rewriter {
  readonly #context: Omit<ItemsContext, 'within'>;
  readonly #contexts = new Map<string | undefined, ItemsContext>();

  constructor(
    kept: readonly StyleComment[],
    private readonly support: StyleSupport,
    ascii: boolean,
  ) {
    const starts = kept.map(({ start }) => start);
    this.#context = {
      ascii,
      hasComment: ({ loc }) => starts.length > 0 && !!loc && anyWithin(starts, loc.start.offset, loc.end.offset),
      support,
      rewritten: (node) => {
        this.#declaration(node, undefined);
        return node;
      },
      again: (nodes, within) => this.#settled(nodes, within),
    };
  }

  /** The rules and declarations of a list, rewritten. */
  items(nodes: readonly CssNodePlain[], within: string | undefined): CssNodePlain[] {
    for (const node of nodes) {
      if (node.type === 'Declaration') this.#declaration(node, within);
      else if (node.type === 'Rule') {
        rewriteSelectors(node.prelude, this.support);
        node.block.children = this.items(
          node.block.children,
          within !== undefined && atRule(within)?.block === 'keyframes' ? 'frame' : 'rule',
        );
      } else if (node.type === 'Atrule') this.#atRule(node, within);
    }
    return this.#settled(nodes, within);
  }

  #atRule(node: AtrulePlain, within: string | undefined): void {
    for (const hook of atRuleHooks) hook(node);
    if (!node.block) return;
    const name = node.name.toLowerCase();
    // Conditional groups may contain everything that may surround them.
    const inside = within === 'rule' && atRule(name)?.block === 'rules' ? 'rule' : name;
    node.block.children = this.items(node.block.children, inside);
  }

  /** Applies all list rewrites until nothing changes. */
  #settled(nodes: readonly CssNodePlain[], within: string | undefined): CssNodePlain[] {
    const isBlock = nodes.length > 1 && nodes.some(({ type }) => type === 'Declaration');
    const hasRules = nodes.some(({ type }) => type === 'Rule' || type === 'Atrule');
    if (!isBlock && !hasRules) return nodes as CssNodePlain[];
    const hooks = isBlock ? (hasRules ? listHooks : blockHooks) : rulesHooks;
    const context = this.#contextFor(within);
    let current = nodes;
    // The list that each hook left unchanged, to which it need not be applied again.
    const settled = new Array<readonly CssNodePlain[] | undefined>(hooks.length);
    for (let round = 0; round < maxRounds; round++) {
      const before = current;
      for (let at = 0; at < hooks.length; at++) {
        if (settled[at] === current) continue;
        const next = hooks[at]!(current, context);
        if (next === current) settled[at] = current;
        current = next;
      }
      if (current === before) break;
    }
    return current as CssNodePlain[];
  }

  #contextFor(within: string | undefined): ItemsContext {
    let context = this.#contexts.get(within);
    if (!context) {
      context = { ...this.#context, within };
      this.#contexts.set(within, context);
    }
    return context;
  }

  #declaration(node: DeclarationPlain, within: string | undefined): void {
    const place: ValuePlace = {
      property: node.property.toLowerCase(),
      functions: [],
      descriptorOf: within !== undefined && atRule(within)?.block === 'descriptors' ? within : undefined,
      support: this.support,
    };
    if (node.value.type === 'Value') {
      // Browsers preserve the text of values that they cannot parse yet, and expose it to scripts.
      const hooks = holdsSubstitution(node.value.children) ? textHooks : componentHooks;
      node.value.children = rewriteComponents(node.value.children, place, hooks);
    }
    const hooks = declarationHooksFor(place.property);
    if (hooks.length === 0 || node.value.type !== 'Value') return;
    const { value } = node;
    const before = { ...node, value: { ...value, children: [...value.children] } };
    let isChanged = false;
    for (let round = 0; round < maxRounds; round++) {
      let changes = false;
      for (const hook of hooks) changes = hook(node, place) || changes;
      if (!changes) break;
      isChanged = true;
    }
    // Text that browsers skip must not become valid.
    if (isChanged && place.descriptorOf === undefined && !isValid(before)) node.value = before.value;
  }
}

const hooksOfProperties = new Map<string, readonly DeclarationHook[]>();

type DeclarationHook = NonNullable<StyleRewrite['declaration']>;

/** The rewrites for declarations of a property; none for custom properties, of which there may be any number. */
function declarationHooksFor(property: string): readonly DeclarationHook[] {
  if (property.startsWith('--')) return [];
  let hooks = hooksOfProperties.get(property);
  if (!hooks) {
    hooks = declarationRewrites.flatMap((one) => (one.properties?.test(property) && one.declaration) || []);
    if (hooksOfProperties.size > maxProperties) hooksOfProperties.clear();
    hooksOfProperties.set(property, hooks);
  }
  return hooks;
}

/** There are a few hundred properties; sheets with more names than this contain something else. */
const maxProperties = 2000;

function rewriteComponents(nodes: CssNodePlain[], place: ValuePlace, hooks: typeof componentHooks): CssNodePlain[] {
  for (let at = 0; at < nodes.length; at++) {
    const node = nodes[at]!;
    if (node.type === 'Function') {
      const inside = { ...place, functions: [...place.functions, node.name.toLowerCase()] };
      node.children = rewriteComponents(node.children, inside, hooks);
    } else if (node.type === 'Parentheses' || node.type === 'Brackets')
      node.children = rewriteComponents(node.children, place, hooks);
    const next = rewritten(node, hooks, place);
    nodes[at] = next;
    // A node that was moved to another function may have another shortest form there.
    if (next !== node && next.type === 'Function') at--;
  }
  return nodes;
}

function rewriteSelectors(node: CssNodePlain, support: StyleSupport): void {
  if (!('children' in node) || !node.children) return;
  const children = node.children as CssNodePlain[];
  for (let at = 0; at < children.length; at++) {
    rewriteSelectors(children[at]!, support);
    children[at] = rewritten(children[at]!, selectorHooks, support);
  }
}

/** Applies all rewrites for its type to a node until nothing changes. */
function rewritten<Place>(
  node: CssNodePlain,
  hooks: ReadonlyMap<string, readonly Hook<Place>[]>,
  place: Place,
): CssNodePlain {
  let current = node;
  for (let round = 0; round < maxRounds; round++) {
    const before = current;
    const own = hooks.get(current.type);
    if (!own) break;
    for (const hook of own) {
      const next = hook(current, place);
      if (!next) continue;
      current = next;
      if (next.type !== before.type) break;
    }
    if (current === before) break;
  }
  return current;
}
