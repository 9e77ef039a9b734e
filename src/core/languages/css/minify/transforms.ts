import type { CssNodePlain, FunctionNodePlain } from 'css-tree';
import { printComponent } from '../print/values.js';
import type { StyleRewrite } from './rewrite.js';

/** Writes transforms with the shortest function that does the same. */
export const transforms: StyleRewrite = {
  name: 'transforms',
  doc: 'Writes single-axis translations, rotations and scalings with the shortest function of the same type, so that animations interpolate identically. Three-dimensional functions stay three-dimensional.',
  reference: 'CSS Transforms Level 1, section 12',
  component: {
    Function(node, { property, functions }) {
      if (!/^(-\w+-)?transform$/.test(property) || functions.length > 1) return undefined;
      const name = node.name.toLowerCase();
      const values = node.children.filter((child) => child.type !== 'Operator');
      if (node.children.length !== Math.max(1, values.length * 2 - 1) || values.some(isUnknown)) return undefined;
      const [x, y] = values;
      if (!x) return undefined;
      if (name === 'translatex' && !y) return called(node, 'translate', x);
      const texts = values.map(printComponent);
      const axis = axes[`${name} ${texts.slice(0, -1).join()}`];
      if (axis !== undefined) return called(node, axis, values.at(-1)!);
      const [across, down] = texts;
      if (!y || values.length !== 2) return undefined;
      if (name === 'translate')
        return down === '0' ? called(node, 'translate', x) : across === '0' ? called(node, 'translateY', y) : undefined;
      if (name !== 'scale') return undefined;
      if (across === down) return called(node, 'scale', x);
      return across === '1' ? called(node, 'scaleY', y) : down === '1' ? called(node, 'scaleX', x) : undefined;
    },
  },
};

/** Movements in space along one axis, by the function and all of its values but the last one. */
const axes: Readonly<Record<string, string>> = {
  'translate3d 0,0': 'translateZ',
  'scale3d 1,1': 'scaleZ',
  'rotate3d 1,0,0': 'rotateX',
  'rotate3d 0,1,0': 'rotateY',
  'rotate3d 0,0,1': 'rotateZ',
};

const isUnknown = (node: CssNodePlain): boolean =>
  node.type === 'Raw' || (node.type === 'Function' && /^(var|env|attr|if)$/i.test(node.name));

const called = (node: FunctionNodePlain, name: string, value: CssNodePlain): FunctionNodePlain => ({
  ...node,
  name,
  children: [value],
});
