import type { StepContext } from '../assets/context.js';
import { emptyMap, type CopiedText } from '../languages/source-maps/index.js';
import { offsetAt } from './line-offset.js';
import { projectPackage } from './project-package.js';
import { RenderedText } from './rendered-text.js';

/** A token of the parser, as far as it is used here. */
interface Token {
  readonly type: string;
  readonly content: string;
  readonly children: Token[] | null;
  /** The lines of a block, from 0, and the line after it. */
  readonly map: readonly [number, number] | null;
  attrGet(name: string): string | null;
}

type Rule = (tokens: Token[], index: number, options: object, env: object, renderer: Renderer) => string;

interface Renderer {
  readonly rules: Readonly<Record<string, Rule | undefined>>;
  renderToken(tokens: Token[], index: number, options: object): string;
}

/** The part of the package that is used. */
interface Parser {
  readonly options: object;
  readonly renderer: Renderer;
  parse(text: string, env: object): Token[];
  render(text: string): string;
}

/**
 * Converts Markdown (CommonMark, with tables) to HTML by the package that the project has installed.
 *
 * @param from the text, with its mappings to the sources when maps are on
 */
export async function markdownToHtml(from: CopiedText, file: string, context: StepContext): Promise<CopiedText> {
  const Markdown = await projectPackage<new (options: { readonly html: boolean }) => Parser>(
    'markdown-it',
    file,
    context,
  );
  const parser = new Markdown({ html: true });
  const text = parser.render(from.text);
  if (!context.settings.maps) return { text, map: emptyMap };
  const placed = new PlacedMarkdown(parser, from).render();
  return placed.text === text ? placed : { text, map: emptyMap };
}

/** Renders the tokens of a text one by one: blocks have the place of their lines, the rest is looked up in them. */
class PlacedMarkdown {
  readonly #rendered = new RenderedText(true, new Map());
  readonly #env = {};
  /** The block that is rendered, and the offset up to which its text was found. */
  #start = 0;
  #end = 0;
  #cursor = 0;

  constructor(
    private readonly parser: Parser,
    private readonly from: CopiedText,
  ) {}

  render(): CopiedText {
    const tokens = this.parser.parse(this.from.text, this.#env);
    tokens.forEach((token, index) => {
      if (token.map) this.#enter(token.map);
      if (token.type !== 'inline') this.#add(this.#htmlOf(tokens, index), this.#cursor);
      else (token.children ?? []).forEach((_, at) => this.#addInline(token.children!, at));
    });
    return this.#rendered.finish();
  }

  #enter([first, after]: readonly [number, number]): void {
    const { text } = this.from;
    this.#start = offsetAt(text, first + 1, 0);
    this.#end = offsetAt(text, after + 1, 0);
    // Blocks in a block begin where it does.
    if (this.#cursor < this.#start || this.#cursor >= this.#end) this.#cursor = this.#start;
  }

  #addInline(tokens: Token[], index: number): void {
    const token = tokens[index]!;
    const url = token.attrGet('href') ?? token.attrGet('src');
    const html = this.#htmlOf(tokens, index);
    if (url !== null) return this.#add(html, this.#find(url));
    const at = token.content === '' ? -1 : this.from.text.indexOf(token.content, this.#cursor);
    if (at < 0 || at >= this.#end) return this.#add(html, this.#cursor);
    this.#cursor = at + token.content.length;
    return this.#add(html, at);
  }

  /** The place of a URL: in the block, or in the definition of a link anywhere. */
  #find(url: string): number {
    const { text } = this.from;
    const at = text.indexOf(url, this.#cursor);
    if (at >= 0 && at < this.#end) return at;
    const defined = text.indexOf(`]: ${url}`);
    return defined < 0 ? this.#cursor : defined + ']: '.length;
  }

  #add(html: string, at: number): void {
    this.#rendered.add(html, this.from, at, Math.max(at, this.#end));
  }

  #htmlOf(tokens: Token[], index: number): string {
    const { renderer, options } = this.parser;
    const rule = renderer.rules[tokens[index]!.type];
    return rule ? rule(tokens, index, options, this.#env, renderer) : renderer.renderToken(tokens, index, options);
  }
}
