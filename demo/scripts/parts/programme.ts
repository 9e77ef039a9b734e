/** One item of the evening, with its time as minutes after noon. */
interface Item {
  readonly start: number;
  readonly element: HTMLElement;
}

const toMinutes = (time: string): number => {
  const [hours = 0, minutes = 0] = time.split(':').map(Number);
  return ((hours + 12) % 24) * 60 + minutes;
};

/** Marks what is on now in tonight's programme. */
export function markProgramme(list: Element, now = new Date()): void {
  const minutes = ((now.getHours() + 12) % 24) * 60 + now.getMinutes();
  const items: Item[] = [...list.querySelectorAll('li')].map((element) => ({
    element,
    start: toMinutes(element.querySelector('time')?.textContent ?? ''),
  }));
  const current = items.findLast((item) => item.start <= minutes);
  current?.element.classList.add('now');
  if (DEBUG) console.debug('programme', { minutes, current });
}

declare const DEBUG: boolean;
