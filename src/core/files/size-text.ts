/** A size in bytes for people: SI units, three digits at most. */
export function formatSize(bytes: number): string {
  if (bytes < 999.5) return `${String(Math.round(bytes))} B`;
  const units = ['kB', 'MB', 'GB'];
  let value = bytes / 1000;
  let unit = 0;
  while (value >= 999.5 && unit < units.length - 1) {
    value /= 1000;
    unit++;
  }
  return `${value < 99.95 ? value.toFixed(1) : String(Math.round(value))} ${units[unit]!}`;
}
