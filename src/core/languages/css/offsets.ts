/**
 * Reports whether one of some offsets is within a range.
 *
 * @param offsets in order
 * @param to the end of the range
 */
export function anyWithin(offsets: readonly number[], from: number, to: number): boolean {
  let [low, high] = [0, offsets.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (offsets[middle]! < from) low = middle + 1;
    else high = middle;
  }
  return low < offsets.length && offsets[low]! < to;
}
