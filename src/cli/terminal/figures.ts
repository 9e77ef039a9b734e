/** A size in bytes for people: SI units, three digits at most. */
export function formatSize(bytes: number): string {
  if (bytes < 1000) return `${String(bytes)} B`;
  const units = ['kB', 'MB', 'GB'];
  let value = bytes / 1000;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value < 99.95 ? value.toFixed(1) : String(Math.round(value))} ${units[unit]!}`;
}

/** A duration for people. */
export function formatTime(milliseconds: number): string {
  if (milliseconds < 999.5) return `${String(Math.max(1, Math.round(milliseconds)))} ms`;
  return `${(milliseconds / 1000).toFixed(milliseconds < 9950 ? 2 : 1)} s`;
}

/** A number with its noun, in the plural where that is due. */
export function count(number: number, noun: string): string {
  return `${String(number)} ${noun}${number === 1 ? '' : 's'}`;
}
