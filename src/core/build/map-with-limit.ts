/** The number of items that are at work at the same time, most of them waiting for compilers. */
const maxConcurrent = 16;

/** Processes items concurrently, up to a limit. */
export async function mapWithLimit<T>(items: readonly T[], work: (item: T) => Promise<void>): Promise<void> {
  let next = 0;
  const worker = async (): Promise<void> => {
    while (next < items.length) await work(items[next++]!);
  };
  await Promise.all(Array.from({ length: Math.min(maxConcurrent, items.length) }, worker));
}

/** The items of lists in one list. */
export function flattened<T>(lists: readonly (readonly T[])[]): T[] {
  const all: T[] = [];
  for (const list of lists) for (const item of list) all.push(item);
  return all;
}
