export { formatSize } from '../../core/files/size-text.js';

/** A duration for people. */
export function formatTime(milliseconds: number): string {
  if (milliseconds < 999.5) return `${String(Math.max(1, Math.round(milliseconds)))} ms`;
  return `${(milliseconds / 1000).toFixed(milliseconds < 9950 ? 2 : 1)} s`;
}

/** A number with its noun, in the plural where that is due. */
export function count(number: number, noun: string): string {
  return `${String(number)} ${noun}${number === 1 ? '' : 's'}`;
}
