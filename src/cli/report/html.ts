/** A text of HTML or SVG, which is not escaped again. */
export class Markup {
  constructor(readonly text: string) {}
}

/** Something that can be part of markup; texts and numbers are escaped, and nothing stands for nothing. */
export type Part = Markup | string | number | undefined | readonly Part[];

/**
 * Markup with parts in it, which are escaped.
 * @example html`<b>${'<'}</b>`.text // '<b>&lt;</b>'
 */
export function html(strings: TemplateStringsArray, ...parts: readonly Part[]): Markup {
  return new Markup(strings.map((one, at) => one + escaped(parts[at])).join(''));
}

const names: Readonly<Record<string, string>> = { '&': '&amp;', '<': '&lt;', '>': '&gt;', '"': '&quot;' };

function escaped(part: Part): string {
  if (part === undefined) return '';
  if (part instanceof Markup) return part.text;
  if (Array.isArray(part)) return (part as readonly Part[]).map(escaped).join('');
  return String(part as string | number).replace(/[&<>"]/g, (sign) => names[sign]!);
}
