/** A page made by the server. */
export interface PageParts {
  readonly title: string;
  /** Paragraphs and lists, as HTML. */
  readonly body: string;
}

const style = `
  :root { color-scheme: light dark; --ink: #26221f; --paper: #faf7f2; --faint: #6d645b; --line: #ddd5ca; --mark: #b4431c; }
  @media (prefers-color-scheme: dark) {
    :root { --ink: #ece6dd; --paper: #1d1a18; --faint: #a2978b; --line: #3d3732; --mark: #f08a5d; }
  }
  body { margin: 0; padding: 10vh 1.5rem 3rem; background: var(--paper); color: var(--ink);
    font: 1.0625rem/1.55 ui-serif, Georgia, serif; }
  main { max-width: 40rem; margin: 0 auto; padding-left: 1.5rem; border-left: 0.375rem solid var(--mark); }
  h1 { margin: 0 0 1rem; font-size: 1.6rem; line-height: 1.2; }
  p { margin: 0 0 0.75rem; }
  ul { margin: 0 0 1rem; padding: 0; list-style: none; }
  li { padding: 0.3rem 0; border-bottom: 1px solid var(--line); }
  a { color: var(--mark); }
  code, li { font-family: ui-monospace, monospace; font-size: 0.9375rem; overflow-wrap: anywhere; }
  .faint { color: var(--faint); font-size: 0.9375rem; }
`;

/** A page of the server itself: readable in light and dark mode, without scripts. */
export function drawPage({ title, body }: PageParts): string {
  return `<!doctype html>
<html lang="en">
<head>
<meta charset="utf-8">
<meta name="viewport" content="width=device-width">
<title>${escapeText(title)}</title>
<style>${style}</style>
</head>
<body>
<main>
<h1>${escapeText(title)}</h1>
${body}
</main>
</body>
</html>
`;
}

/** Escapes a text for HTML content and quoted attributes. */
export function escapeText(text: string): string {
  return text.replaceAll('&', '&amp;').replaceAll('<', '&lt;').replaceAll('>', '&gt;').replaceAll('"', '&quot;');
}
