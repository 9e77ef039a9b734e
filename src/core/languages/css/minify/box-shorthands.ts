import { holdsSubstitution } from '../cascade/value-text.js';
import type { CssNodePlain } from 'css-tree';
import { printComponent } from '../print/values.js';
import type { StyleRewrite } from './rewrite.js';

const sidesProperties =
  /^(margin|padding|inset|scroll-margin|scroll-padding|border-(width|style|color|image-width|image-outset))$/;
const radiusProperties = /^(-\w+-)?border-radius$/;
const pairProperties =
  /^((margin|padding|inset|scroll-margin|scroll-padding)-(inline|block)|border-(inline|block)-(width|style|color)|gap|grid-gap|border-spacing|overflow|overscroll-behavior|place-(content|items|self)|background-size|border-image-repeat|(-\w+-)?border-(top|bottom)-(left|right)-radius)$/;

/** Leaves out sides that repeat the opposite one. */
export const boxShorthands: StyleRewrite = {
  name: 'box-shorthands',
  doc: 'Shortens values for four sides, four corners or two ends if they repeat.',
  reference:
    'CSS Backgrounds Level 3, sections 3.3 and 4.1; CSS Box Level 3, section 4.2; CSS Align Level 3, section 8',
  properties: new RegExp([sidesProperties, radiusProperties, pairProperties].map(({ source }) => source).join('|')),
  declaration(node, { property }) {
    if (node.value.type !== 'Value') return false;
    const { children } = node.value;
    // A substitution may result in several values, or none.
    if (children.length < 2 || holdsSubstitution(children)) return false;
    const shorter = sidesProperties.test(property)
      ? withoutRepeats(children, 4)
      : radiusProperties.test(property)
        ? withoutRepeatedRadii(children)
        : withoutRepeats(children, 2, property === 'background-size');
    if (shorter.length === children.length) return false;
    node.value.children = shorter;
    return true;
  },
};

/**
 * @param count how many values there may be
 * @param secondIsAuto whether a second value that is left out means `auto`, not the first one again
 */
function withoutRepeats(nodes: CssNodePlain[], count: number, secondIsAuto = false): CssNodePlain[] {
  if (nodes.length > count || nodes.some((node) => node.type === 'Operator')) return nodes;
  const [top, right = top, bottom = top, left = right] = nodes.map(printComponent);
  if (secondIsAuto) return nodes.length === 2 && right === 'auto' ? nodes.slice(0, 1) : nodes;
  const needed = left !== right ? 4 : bottom !== top ? 3 : right !== top ? 2 : 1;
  return nodes.slice(0, Math.min(needed, nodes.length));
}

function withoutRepeatedRadii(nodes: CssNodePlain[]): CssNodePlain[] {
  const slash = nodes.findIndex((node) => node.type === 'Operator');
  if (slash < 0) return withoutRepeats(nodes, 4);
  const across = withoutRepeats(nodes.slice(0, slash), 4);
  const down = withoutRepeats(nodes.slice(slash + 1), 4);
  const isSame = across.map(printComponent).join(' ') === down.map(printComponent).join(' ');
  return isSame ? across : [...across, nodes[slash]!, ...down];
}
