/**
 * Reports whether one of some offsets is within a range.
 *
 * @param offsets in order
 * @param to the end of the range
 */
export function anyWithin(offsets: readonly number[], from: number, to: number): boolean {
  const first = firstThat(offsets, (offset) => offset >= from);
  return first < offsets.length && offsets[first]! < to;
}

/** The index of the first of some ranges, in order, that starts at or after an offset; their number if none does. */
export const firstFrom = (ranges: readonly { readonly start: number }[], offset: number): number =>
  firstThat(ranges, ({ start }) => start >= offset);

/** The index of the first value that passes a test, after which all others do. */
function firstThat<T>(values: readonly T[], passes: (value: T) => boolean): number {
  let [low, high] = [0, values.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (passes(values[middle]!)) high = middle;
    else low = middle + 1;
  }
  return low;
}
