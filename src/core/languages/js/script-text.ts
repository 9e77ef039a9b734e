import type { AnyNode } from 'acorn';

/** The length of the first line of a text, if it names an interpreter (`Hashbang`; ECMA-262, section 12.5). */
export function hashbangLength(text: string): number {
  return /^#!.*\n?/.exec(text)?.[0].length ?? 0;
}

/** The offset at which a text ends, without a comment that names its source map, and white space. */
export function endOfScript(text: string): number {
  const end = text.trimEnd();
  const comment = /(\/\/[#@] sourceMappingURL=[^\n]*|\/\*[#@] sourceMappingURL=[^*]*\*\/)$/.exec(
    end.slice(Math.max(end.lastIndexOf('\n'), end.lastIndexOf('/*'), 0)),
  );
  return comment ? end.slice(0, end.length - comment[0].length).trimEnd().length : end.length;
}

/** Reports whether the text after a statement could continue it (ECMA-262, section 12.10). */
export function needsSemicolon({ type, end }: AnyNode, text: string): boolean {
  if (['FunctionDeclaration', 'ClassDeclaration', 'BlockStatement', 'TryStatement', 'SwitchStatement'].includes(type))
    return false;
  return text[end - 1] !== ';';
}
