import { printComponent } from '../print/values.js';
import type { StyleRewrite } from './rewrite.js';

const sidesProperties = /^(margin|padding|inset|scroll-margin|scroll-padding|border-(width|style|color))$/;

/** Leaves out sides that repeat the opposite one. */
export const sides: StyleRewrite = {
  name: 'sides',
  doc: 'Four values for four sides are cut to three, two or one where the rest repeats them.',
  reference: 'CSS Backgrounds Level 3, section 3.3; CSS Box Level 3, section 4.2',
  declaration(node) {
    if (node.value.type !== 'Value' || !sidesProperties.test(node.property.toLowerCase())) return;
    const { children } = node.value;
    // A var( ) may hold several values, or none.
    if (
      children.length < 2 ||
      children.length > 4 ||
      children.some(
        (child) => child.type === 'Operator' || (child.type === 'Function' && /^(var|env|attr|if)$/i.test(child.name)),
      )
    )
      return;
    const [top, right, bottom = top, left = right] = children.map(printComponent);
    const count = left !== right ? 4 : bottom !== top ? 3 : right !== top ? 2 : 1;
    node.value.children = children.slice(0, Math.min(count, children.length));
  },
};
