import { fork, tokenTypes, type CssNode, type ParseOptions, type SyntaxConfig } from 'css-tree';

/** What the functions of a grammar are called on: the parser, at a token of the text. */
interface Parser {
  readonly eof: boolean;
  readonly tokenType: number;
  readonly tokenStart: number;
  readonly tokenIndex: number;
  readonly tokenCount: number;
  readonly source: string;
  getTokenType: (index: number) => number;
  getTokenStart: (index: number) => number;
  /** The index of the other bracket of a pair; -1 if there is none. */
  getBlockTokenPairIndex: (index: number) => number;
  next: () => void;
  eat: (type: number) => void;
  createList: () => { push: (node: CssNode) => void };
  getLocation: (start: number, end: number) => unknown;
  parseWithFallback: (
    parse: (this: Parser) => CssNode,
    fallback: (this: Parser, startToken: number) => CssNode,
  ) => CssNode;
  consumeUntilSemicolonIncluded: unknown;
  Raw: (consumeUntil: unknown, excludeWhiteSpace: boolean) => CssNode;
  Rule: (this: Parser) => CssNode;
  Declaration: (this: Parser) => CssNode;
  Atrule: (this: Parser, hasDeclarations: boolean) => CssNode;
  Block: (this: Parser, hasDeclarations: boolean) => CssNode;
}

const { AtKeyword, Comment, Colon, Delim, Ident, LeftCurlyBracket, RightCurlyBracket, Semicolon, WhiteSpace } =
  tokenTypes;

/**
 * Consumes a block's contents: declarations, rules and at-rules in any order, wherever declarations are allowed (CSS Syntax
 * Level 3, section 5.5.4).
 *
 * @param hasDeclarations false for blocks with rules only, such as those of `@media` outside of rules
 */
function parseBlock(this: Parser, hasDeclarations: boolean): unknown {
  const start = this.tokenStart;
  const children = this.createList();
  this.eat(LeftCurlyBracket);
  while (!this.eof && this.tokenType !== RightCurlyBracket) {
    const type = this.tokenType;
    if (type === WhiteSpace || type === Comment || type === Semicolon) this.next();
    else if (type === AtKeyword) children.push(this.parseWithFallback(this.Atrule.bind(this, hasDeclarations), rest));
    else if (hasDeclarations && isDeclaration(this)) {
      children.push(this.parseWithFallback(this.Declaration, declarationRest));
      if (this.tokenType === Semicolon) this.next();
    } else children.push(this.parseWithFallback(this.Rule, rest));
  }
  if (!this.eof) this.eat(RightCurlyBracket);
  return { type: 'Block', loc: this.getLocation(start, this.tokenStart), children };
}

function rest(this: Parser): CssNode {
  return this.Raw(null, true);
}

function declarationRest(this: Parser): CssNode {
  return this.Raw(this.consumeUntilSemicolonIncluded, true);
}

/**
 * Reports whether a declaration is next, not a rule (CSS Syntax Level 3, section 5.5.6): a name and a colon, and no `{}`
 * block in the value, unless the property is a custom one. Text that is neither is taken for a declaration up to its `;`.
 */
function isDeclaration(parser: Parser): boolean {
  let index = parser.tokenIndex;
  const isHack = parser.tokenType === Delim && parser.source[parser.tokenStart] !== '&';
  if (isHack) index++;
  const isNamed = parser.getTokenType(index) === Ident;
  const isCustom = isNamed && !isHack && parser.source.startsWith('--', parser.getTokenStart(index));
  if (isCustom) {
    let type: number;
    do type = parser.getTokenType(++index);
    while (type === WhiteSpace || type === Comment);
    if (type === Colon) return true;
  }
  for (; index < parser.tokenCount; index++) {
    const type = parser.getTokenType(index);
    if (type === LeftCurlyBracket) return false;
    if (type === Semicolon || type === RightCurlyBracket) return true;
    const end = parser.getBlockTokenPairIndex(index);
    if (end > index) index = end;
  }
  return true;
}

/** At-rules whose blocks have declarations where the at-rule is in a rule; those of `@scope`, everywhere. */
const nestable = {
  layer: (hasDeclarations: boolean): boolean => hasDeclarations,
  scope: (): boolean => true,
};

const syntax = fork((base: SyntaxConfig) => {
  const { atrule, node } = base as unknown as Readonly<Record<'atrule' | 'node', Record<string, { parse: object }>>>;
  const blocks = Object.entries(nestable).map(([name, hasDeclarations]) => {
    const block = function (this: Parser, isInRule = false): CssNode {
      return this.Block(hasDeclarations(isInRule));
    };
    return [name, { ...atrule[name], parse: { ...atrule[name]!.parse, block } }] as const;
  });
  return {
    ...base,
    // Nothing is matched against definitions of values here.
    types: {},
    properties: {},
    atrules: {},
    atrule: { ...atrule, ...Object.fromEntries(blocks) },
    node: { ...node, Block: { ...node['Block'], parse: parseBlock } },
  };
});

/** Parses a text as css-tree does, but for the contents of blocks, which are those of the current specifications. */
export const parseText = (text: string, options: ParseOptions): CssNode => syntax.parse(text, options) as CssNode;
