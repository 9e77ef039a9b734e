import type { StyleRewrite } from './rewrite.js';

const lengthUnits = /^(px|r?em|r?ex|r?ch|r?lh|ic|cap|[sld]?v(w|h|i|b|min|max)|cm|mm|in|pt|pc|q)$/i;

/** Properties that take a length and nothing else that a bare zero could be. */
const lengthProperties =
  /^(margin|padding|inset|scroll-margin|scroll-padding)(-(top|right|bottom|left|inline|block)(-(start|end))?)?$|^(inset-(inline|block)(-(start|end))?|top|right|bottom|left|(min-|max-)?(width|height|inline-size|block-size)|gap|(row|column|grid|grid-row|grid-column)-gap|letter-spacing|word-spacing|text-indent|font-size|outline(-width|-offset)?|column-rule(-width)?|border(-(top|right|bottom|left|inline|block))?(-(start|end))?(-width)?|border-spacing|(-\w+-)?border(-\w+-\w+)?-radius|(-\w+-)?box-shadow|text-shadow|background(-position(-[xy])?|-size)?|object-position|(-\w+-)?(transform|perspective)-origin|(-\w+-)?transform|translate|(-\w+-)?(filter|backdrop-filter)|clip|clip-path|grid-template(-columns|-rows)?|grid-auto-(columns|rows))$/;

/** Functions in which a bare zero is a length all the same. */
const lengthFunctions =
  /^(-\w+-)?(translate(x|y|z|3d)?|minmax|blur|drop-shadow|inset|rect|polygon|circle|ellipse|repeat|(repeating-)?(linear|radial)-gradient)$/;

/** Writes zero lengths without their unit. */
export const zeros: StyleRewrite = {
  name: 'zeros',
  doc: 'A zero length loses its unit, where a bare zero can be nothing but a length; never in calculations, flex, times or angles.',
  reference: 'CSS Values Level 4, section 6',
  component(node, { property, functions }) {
    if (node.type !== 'Dimension' || !/^[+-]?0*\.?0*$/.test(node.value) || !lengthUnits.test(node.unit))
      return undefined;
    if (!lengthProperties.test(property) || !functions.every((name) => lengthFunctions.test(name))) return undefined;
    return { type: 'Number', value: '0', ...(node.loc && { loc: node.loc }) };
  },
};
