import type { Context, Emitter, Liquid, Template as Parsed, Token } from 'liquidjs';
import type { Template } from './template.js';
import { RenderedText, type KnownTexts } from './rendered-text.js';
import type { CopiedText } from '../languages/source-maps/index.js';

/** A place from which on the text of an emitter comes from a token; undefined outside all templates. */
interface Switch {
  readonly at: number;
  readonly token: Token | undefined;
}

/** The token that writes to an emitter, and all that wrote to it before. */
interface Written {
  token: Token | undefined;
  readonly switches: Switch[];
}

/** Notes which token of which template each piece of a rendered text comes from. */
export class LiquidPieces {
  readonly #written = new WeakMap<Emitter, Written>();

  /**
   * @param templateOf the template that a token is in
   * @param known also gets what tags capture: blocks of layouts, for example
   */
  constructor(
    engine: Liquid,
    private readonly templateOf: (token: Token) => Template,
    private readonly known: KnownTexts,
  ) {
    const { renderer } = engine;
    const render = renderer.renderTemplates.bind(renderer);
    const renderPieces = this.#renderPieces.bind(this);
    renderer.renderTemplates = function* (templates: Parsed[], ctx: Context, emitter?: Emitter) {
      if (emitter) {
        yield renderPieces(render, templates, ctx, emitter);
        return emitter.buffer;
      }
      // Only the renderer can make an emitter: it makes one for a template that renders all of them.
      const all = {
        token: templates[0]?.token,
        *render(inner: Context, made: Emitter): IterableIterator<unknown> {
          yield renderPieces(render, templates, inner, made);
        },
      };
      return (yield render([all as Parsed], ctx)) as unknown;
    };
  }

  /** The pieces of a text that one call of the renderer has written: by a tag that keeps it, or the result. */
  *#renderPieces(
    render: Liquid['renderer']['renderTemplates'],
    templates: readonly Parsed[],
    ctx: Context,
    emitter: Emitter,
  ): IterableIterator<unknown> {
    const isOuter = !this.#written.has(emitter);
    const written = this.#written.get(emitter) ?? { token: undefined, switches: [] };
    this.#written.set(emitter, written);
    const around = written.token;
    for (const template of templates) {
      this.#switchTo(template.token, written, emitter);
      yield render([template], ctx, emitter);
      this.#switchTo(around, written, emitter);
      if (ctx.breakCalled || ctx.continueCalled) break;
    }
    if (isOuter && emitter.buffer !== '') this.known.set(emitter.buffer, this.#textOf(emitter.buffer, written));
  }

  #switchTo(token: Token | undefined, written: Written, { buffer }: Emitter): void {
    written.token = token;
    written.switches.push({ at: buffer.length, token });
  }

  #textOf(text: string, { switches }: Written): CopiedText {
    const rendered = new RenderedText(true, this.known);
    switches.forEach(({ at, token }, index) => {
      const piece = text.slice(at, switches[index + 1]?.at ?? text.length);
      if (piece === '') return;
      if (!token) return rendered.addUnknown(piece);
      const { copied, start } = this.templateOf(token);
      const { trimLeft = 0 } = token as Token & { readonly trimLeft?: number };
      rendered.add(piece, copied, start + token.begin + trimLeft, start + token.end);
    });
    return rendered.finish();
  }
}
