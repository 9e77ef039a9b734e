import type { FrameLine, Problem } from '../message.js';
import { panelStyle } from './panel-style.js';

/**
 * Shows errors over the page. It is a shadow tree outside the page's body, so that they do not affect each other; it
 * never takes the focus from a text field.
 */
export class Panel {
  #host: HTMLElement | undefined;
  #shown = '[]';

  /** Shows problems; without any, the panel is removed. A closed panel stays closed until the problems change. */
  show(problems: readonly Problem[]): void {
    const text = JSON.stringify(problems);
    if (text === this.#shown) return;
    this.#shown = text;
    if (problems.length === 0) return this.#close();
    const shadow = this.#open();
    shadow.replaceChildren(this.#draw(problems));
  }

  #open(): ShadowRoot {
    if (this.#host?.isConnected) return this.#host.shadowRoot!;
    const host = document.createElement('loyal-anvil-problems');
    const shadow = host.attachShadow({ mode: 'open' });
    const sheet = new CSSStyleSheet();
    sheet.replaceSync(panelStyle);
    shadow.adoptedStyleSheets = [sheet];
    document.documentElement.append(host);
    // A popover is shown over dialogs and everything else, in browsers that support it.
    if ('popover' in host) {
      host.popover = 'manual';
      host.showPopover();
    }
    this.#host = host;
    return shadow;
  }

  #close(): void {
    this.#host?.remove();
    this.#host = undefined;
  }

  #draw(problems: readonly Problem[]): HTMLElement {
    const title = titleOf(problems);
    const close = make('button', { type: 'button', class: 'close' }, 'Close');
    close.addEventListener('click', () => this.#close());
    const panel = make(
      'section',
      { role: 'dialog', 'aria-labelledby': 'title', tabindex: '-1' },
      make('header', {}, make('h1', { id: 'title', role: 'status' }, title), close),
      make('ol', { tabindex: '0', 'aria-label': 'Problems' }, ...problems.map(drawProblem)),
      make('footer', {}, footerOf(problems)),
    );
    panel.addEventListener('keydown', (event) => {
      if (event.key === 'Escape') this.#close();
      // The page must not receive key presses of the panel.
      event.stopPropagation();
    });
    return panel;
  }
}

function footerOf(problems: readonly Problem[]): string {
  const isBuilt = problems.every(({ severity, isAdvisory }) => severity !== 'error' || isAdvisory === true);
  return isBuilt
    ? 'This page is up to date all the same.'
    : 'This page shows the previous build until the errors are fixed.';
}

function titleOf(problems: readonly Problem[]): string {
  const errors = problems.filter(({ severity }) => severity === 'error').length;
  const pipelines = [...new Set(problems.flatMap(({ pipeline }) => pipeline ?? []))];
  const where = pipelines.length > 0 ? ` in ${pipelines.join(', ')}` : '';
  return `${errors === 1 ? '1 error' : `${String(errors)} errors`}${where}`;
}

function drawProblem({ severity, code, message, hint, place, frame }: Problem): HTMLElement {
  const head = make('p', { class: 'place' }, make('span', { class: severity }, severity), ' ');
  if (place !== undefined) head.append(make('b', {}, place), ' ');
  head.append(make('small', {}, code));
  const item = make('li', {}, head, make('p', { class: 'message' }, message));
  if (frame) item.append(drawFrame(frame));
  if (hint !== '') item.append(make('p', { class: 'hint' }, `→ ${hint}`));
  return item;
}

function drawFrame(frame: readonly FrameLine[]): HTMLElement {
  const lines = frame.map(({ number, text, marked }) => {
    const line = make('span', marked ? { class: 'line here' } : { class: 'line' });
    line.append(make('span', { class: 'number', 'aria-hidden': 'true' }, String(number)));
    if (!marked) line.append(`${text}\n`);
    else {
      const [start, end] = marked;
      line.append(text.slice(0, start), make('mark', {}, text.slice(start, end) || ' '), `${text.slice(end)}\n`);
    }
    return line;
  });
  return make('pre', { tabindex: '0', 'aria-label': 'Code' }, make('code', {}, ...lines));
}

function make(name: string, attributes: Readonly<Record<string, string>>, ...content: (Node | string)[]): HTMLElement {
  const element = document.createElement(name);
  for (const [attribute, value] of Object.entries(attributes)) element.setAttribute(attribute, value);
  element.append(...content);
  return element;
}
