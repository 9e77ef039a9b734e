import { ValueWriter } from './random-declaration.js';

/** Declarations of one property and its relatives, some of them invalid: `margin`, `margin-top`, … */
export function randomBlock(seed: number): string {
  const writer = new ValueWriter(seed);
  const first = writer.pick(ValueWriter.properties);
  const [stem] = first.split('-');
  const family = ValueWriter.properties.filter((name) => name === stem || name.startsWith(`${stem!}-`));
  const count = 2 + Math.floor(writer.random() * 4);
  return Array.from({ length: count }, () => {
    const property = writer.chance(0.6) ? first : writer.pick(family);
    return `${property}: ${writer.value(property)}${writer.chance(0.05) ? ' !important' : ''}`;
  }).join('; ');
}

/** A difference between the computed styles of a block of declarations and its minified version. */
export type BlockDifference = readonly [at: number, before: string, after: string];

/** Runs in the page: the properties that blocks set, and the resulting styles of the element. */
export function blockDifferences(pairs: readonly (readonly [before: string, after: string])[]): BlockDifference[] {
  const element = document.querySelector('div')!;
  const round = (text: string): string =>
    text
      .replace(/jump-(start|end)/g, '$1')
      .replace(/-?\d[\d.]*(e[-+]?\d+)?/g, (number) => String(Number(Number(number).toPrecision(3))))
      .replace(/((position|origin)[^:]*:.*)|(radius.*)/, (place) => place.replace(/\b0(%|px)/g, '0'));
  const look = (block: string): string[] => {
    element.style.cssText = '';
    const style = document.createElement('div').style;
    style.cssText = block;
    element.style.cssText = block;
    const computed = getComputedStyle(element);
    return Array.from(style, (name) =>
      round(`${name}: ${computed.getPropertyValue(name)} ${style.getPropertyPriority(name)}`),
    ).sort();
  };
  return pairs.flatMap(([before, after], at): BlockDifference[] => {
    const [was, is] = [look(before), look(after)];
    if (was.join() === is.join()) return [];
    const [lost, found] = [was.filter((one) => !is.includes(one)), is.filter((one) => !was.includes(one))];
    return [[at, lost.slice(0, 4).join('; '), found.slice(0, 4).join('; ')]];
  });
}
