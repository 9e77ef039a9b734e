import { quoted } from './export-lines.js';
import { compiledDefault, wholeGlobal } from './exports.js';

/** The access of a name of a CommonJS module, after its `module.exports`. */
export function memberAccess(local: string): string {
  if (local === 'default' || local === wholeGlobal) return '';
  if (local === compiledDefault) return '.default';
  return /^[A-Za-z_$][\w$]*$/.test(local) ? `.${local}` : `[${quoted(local)}]`;
}

/** An edit that refers to another file. */
export const reference = (url: string): { text: string; url: string } => ({ text: quoted(url), url });

/** What stands for `import.meta` in a classic script (HTML, section 8.1.6.7.3). */
export const scriptMeta = (name: string): string =>
  `var ${name} = { url: typeof document === 'undefined' ? location.href : document.currentScript && document.currentScript.src || document.baseURI };\n`;

/** A comment with the path of a module, on one line whatever the path is. */
export const pathComment = (path: string): string => `// ${path.replace(/[\n\r\u2028\u2029]/g, ' ')}\n`;
