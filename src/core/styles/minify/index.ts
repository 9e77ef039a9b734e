import { charset } from './charset.js';
import { colors } from './colors.js';
import { emptyRules } from './empty-rules.js';
import { fontWeights } from './font-weights.js';
import { imports } from './imports.js';
import { keyframeNames } from './keyframe-names.js';
import { numbers } from './numbers.js';
import { pseudoElements } from './pseudo-elements.js';
import type { StyleRewrite } from './rewrite.js';
import { sides } from './sides.js';
import { zeros } from './zeros.js';

/** Every rewrite of style sheets, in the order in which they look at a node. */
export const styleRewrites: readonly StyleRewrite[] = [
  numbers,
  zeros,
  colors,
  fontWeights,
  sides,
  pseudoElements,
  keyframeNames,
  imports,
  charset,
  emptyRules,
];
