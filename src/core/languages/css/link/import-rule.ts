import { string, tokenize, tokenTypes, url as cssUrl } from 'css-tree';

/** The conditions under which an imported sheet applies, as they are written; empty if there are none. */
export interface ImportConditions {
  /** The name of its layer; empty for an anonymous one, undefined without. */
  readonly layer: string | undefined;
  /** A declaration or a condition without the parentheses around it; undefined without. */
  readonly supports: string | undefined;
  /** A list of media queries. */
  readonly media: string;
}

/** An `@import` rule of a style sheet. */
export interface ImportRule extends ImportConditions {
  /** The URL with escapes decoded. */
  readonly url: string;
  /** The range of the rule: 0-based offsets, without the semicolon. */
  readonly start: number;
  readonly end: number;
  /** The range of the URL. */
  readonly urlStart: number;
  readonly urlEnd: number;
  /** True if the conditions have parts that are none of the above, such as functions of later specifications. */
  readonly isOpaque: boolean;
}

interface Token {
  readonly type: number;
  readonly start: number;
  readonly end: number;
}

/**
 * Reads an `@import` rule (CSS Cascade Level 5, section 2).
 *
 * @param start the offset of `@`
 * @param end the offset after the rule
 * @returns undefined if it is invalid
 */
export function readImport(text: string, start: number, end: number): ImportRule | undefined {
  const tokens = tokensOf(text, start, end).slice(1);
  const textOf = (token: Token): string => text.slice(token.start, token.end);
  const [first, second] = tokens;
  if (!first || tokens.some(({ type }) => type === tokenTypes.LeftCurlyBracket)) return undefined;
  let used = 1;
  let url: string;
  if (first.type === tokenTypes.Url) url = cssUrl.decode(textOf(first));
  else if (first.type === tokenTypes.String) url = string.decode(textOf(first));
  else if (isFunction(first, 'url', text) && second?.type === tokenTypes.String) {
    url = string.decode(textOf(second));
    used = closingOf(tokens, 0) + 1;
    if (used !== 3) return undefined;
  } else return undefined;
  const urlEnd = tokens[used - 1]!.end;
  let layer: string | undefined;
  let supports: string | undefined;
  const layerToken = tokens[used];
  if (layerToken?.type === tokenTypes.Ident && textOf(layerToken).toLowerCase() === 'layer') {
    layer = '';
    used++;
  } else if (layerToken && isFunction(layerToken, 'layer', text)) {
    const close = closingOf(tokens, used);
    const name = text.slice(layerToken.end, tokens[close]?.start ?? end).trim();
    if (/^[^\s.,()/*]+(\.[^\s.,()/*]+)*$/.test(name)) {
      layer = name;
      used = close + 1;
    }
  }
  const supportsToken = tokens[used];
  if (supportsToken && isFunction(supportsToken, 'supports', text)) {
    const close = closingOf(tokens, used);
    supports = text.slice(supportsToken.end, tokens[close]?.start ?? end).trim();
    used = close + 1;
  }
  const rest = tokens[used];
  const last = tokens.at(-1)!.end;
  return {
    url,
    start,
    end: last,
    urlStart: first.start,
    urlEnd,
    layer,
    supports,
    media: rest ? text.slice(rest.start, last) : '',
    isOpaque: rest?.type === tokenTypes.Function,
  };
}

const isFunction = ({ type, start, end }: Token, name: string, text: string): boolean =>
  type === tokenTypes.Function && text.slice(start, end).toLowerCase() === `${name}(`;

/** The position of the token that closes the function at a position; the number of tokens if none does. */
function closingOf(tokens: readonly Token[], open: number): number {
  let depth = 0;
  for (let at = open; at < tokens.length; at++) {
    const { type } = tokens[at]!;
    if (type === tokenTypes.Function || type === tokenTypes.LeftParenthesis) depth++;
    if (type === tokenTypes.RightParenthesis && --depth === 0) return at;
  }
  return tokens.length;
}

/** The tokens of a range, without white space and comments. */
function tokensOf(text: string, from: number, to: number): Token[] {
  const tokens: Token[] = [];
  tokenize(text.slice(from, to), (type, start, end) => {
    if (type !== tokenTypes.WhiteSpace && type !== tokenTypes.Comment && type !== tokenTypes.Semicolon)
      tokens.push({ type, start: from + start, end: from + end });
  });
  return tokens;
}
