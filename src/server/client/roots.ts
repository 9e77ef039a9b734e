/** The document and every shadow root that can be reached from it. */
export function allRoots(root: Document | ShadowRoot = document): (Document | ShadowRoot)[] {
  const inner = [...root.querySelectorAll('*')].flatMap((one) => (one.shadowRoot ? allRoots(one.shadowRoot) : []));
  return [root, ...inner];
}

/** A style sheet, with what its URLs are relative to. */
export interface BasedSheet {
  readonly sheet: CSSStyleSheet;
  readonly base: string;
}

/** Every style sheet of the page, those that are imported included. */
export function allSheets(): BasedSheet[] {
  return allRoots().flatMap((root) =>
    [...root.styleSheets, ...root.adoptedStyleSheets].flatMap((sheet) => [
      { sheet, base: sheet.href ?? document.baseURI },
      ...importsOf(sheet).flatMap((one) => (one.sheet ? [{ sheet: one.sheet, base: one.sheet.href ?? one.base }] : [])),
    ]),
  );
}

/** An import within a sheet, or within one that it imports. */
export interface Import {
  /** The URL as written, relative to the base. */
  readonly url: string;
  readonly base: string;
  /** Missing while it is loading, or when it could not be loaded. */
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

/** The rules of a sheet; none for one of another site, which may not be read. */
export function rulesOf(sheet: { readonly cssRules: CSSRuleList }): readonly CSSRule[] {
  try {
    return [...sheet.cssRules];
  } catch {
    return [];
  }
}
