/** Lists the document and every open shadow root. */
export function allRoots(root: Document | ShadowRoot = document): (Document | ShadowRoot)[] {
  const inner = [...root.querySelectorAll('*')].flatMap((one) => (one.shadowRoot ? allRoots(one.shadowRoot) : []));
  return [root, ...inner];
}

/** A style sheet, with the base of its URLs. */
export interface BasedSheet {
  readonly sheet: CSSStyleSheet;
  readonly base: string;
}

/** Lists every style sheet of the page, including imported ones. */
export function allSheets(): BasedSheet[] {
  return allRoots().flatMap((root) =>
    [...root.styleSheets, ...root.adoptedStyleSheets].flatMap((sheet) => [
      { sheet, base: sheet.href ?? document.baseURI },
      ...importsOf(sheet).flatMap((one) => (one.sheet ? [{ sheet: one.sheet, base: one.sheet.href ?? one.base }] : [])),
    ]),
  );
}

/** An import in a sheet, direct or indirect. */
export interface Import {
  /** The URL as written, relative to the base. */
  readonly url: string;
  readonly base: string;
  /** Undefined while it is loading, or if it failed to load. */
  readonly sheet: CSSStyleSheet | null;
}

/** The imports of a style sheet, direct and indirect. */
export function importsOf(sheet: CSSStyleSheet): Import[] {
  const base = sheet.href ?? document.baseURI;
  return rulesOf(sheet).flatMap((rule) =>
    rule instanceof CSSImportRule
      ? [{ url: rule.href, base, sheet: rule.styleSheet }, ...(rule.styleSheet ? importsOf(rule.styleSheet) : [])]
      : [],
  );
}

/** The rules of a sheet; none for a sheet of another site, which is not readable. */
export function rulesOf(sheet: { readonly cssRules: CSSRuleList }): readonly CSSRule[] {
  try {
    return [...sheet.cssRules];
  } catch {
    return [];
  }
}
