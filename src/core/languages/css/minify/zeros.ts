import type { StyleRewrite } from './rewrite.js';

const lengthUnits = /^(px|r?em|r?ex|r?ch|r?lh|ic|cap|[sld]?v(w|h|i|b|min|max)|cm|mm|in|pt|pc|q)$/i;

/** Properties in which a bare zero can only be a length. */
const lengthProperties =
  /^(margin|padding|inset|scroll-margin|scroll-padding)(-(top|right|bottom|left|inline|block)(-(start|end))?)?$|^(inset-(inline|block)(-(start|end))?|top|right|bottom|left|(min-|max-)?(width|height|inline-size|block-size)|gap|(row|column|grid|grid-row|grid-column)-gap|letter-spacing|word-spacing|text-indent|font-size|outline(-width|-offset)?|column-rule(-width)?|border(-(top|right|bottom|left|inline|block))?(-(start|end))?(-width)?|border-spacing|(-\w+-)?border(-\w+-\w+)?-radius|(-\w+-)?box-shadow|text-shadow|background(-position(-[xy])?|-size)?|object-position|(-\w+-)?(transform|perspective)-origin|(-\w+-)?transform|translate|(-\w+-)?(filter|backdrop-filter)|clip|clip-path|grid-template(-columns|-rows)?|grid-auto-(columns|rows))$/;

/** Functions in which a bare zero is a length all the same. */
const lengthFunctions =
  /^(-\w+-)?(translate(x|y|z|3d)?|minmax|blur|drop-shadow|inset|rect|polygon|circle|ellipse|repeat|(repeating-)?(linear|radial)-gradient)$/;

/** Writes zero lengths without their unit. */
export const zeros: StyleRewrite = {
  name: 'zeros',
  doc: 'Removes the unit of zero lengths where a bare zero can only be a length, which excludes calculations, `flex` and times. Zero angles lose it in `rotate()` and `skew()`.',
  reference: 'CSS Values Level 4, section 6; CSS Transforms Level 1, section 12',
  keepsText: true,
  component: {
    Dimension(node, { property, functions }) {
      if (!/^[+-]?0*\.?0*$/.test(node.value)) return undefined;
      const isLength =
        lengthUnits.test(node.unit) &&
        lengthProperties.test(property) &&
        functions.every((name) => lengthFunctions.test(name));
      // These functions accepted a bare zero as an angle before units were required.
      const isAngle =
        /^(deg|grad|rad|turn)$/i.test(node.unit) &&
        /^(-\w+-)?transform$/.test(property) &&
        functions.every((name) => /^(rotate|skew)[xyz]?$/.test(name)) &&
        functions.length === 1;
      if (!isLength && !isAngle) return undefined;
      return { type: 'Number', value: '0', ...(node.loc && { loc: node.loc }) };
    },
  },
};
