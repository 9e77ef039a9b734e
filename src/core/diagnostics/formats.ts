import type { Diagnostic } from './diagnostic.js';

/**
 * A diagnostic as one line, `file:line:column: severity: message [code]`, the form that editors and CI systems read.
 * Line breaks inside a message become spaces.
 */
export function formatLine(one: Diagnostic): string {
  const start = one.range?.start;
  const place = one.file === undefined ? 'loyal-anvil' : start ? `${one.file}:${start.line}:${start.column}` : one.file;
  return `${place}: ${one.severity}: ${one.message.replace(/\s*\n\s*/g, ' ')} [${one.code}]`;
}
