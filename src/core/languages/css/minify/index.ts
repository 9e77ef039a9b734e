import { backgrounds } from './backgrounds.js';
import { calculations } from './calculations.js';
import { charset } from './charset.js';
import { colors } from './colors.js';
import { easings } from './easings.js';
import { emptyRules } from './empty-rules.js';
import { escapes } from './escapes.js';
import { fallbacks } from './fallbacks.js';
import { flex } from './flex.js';
import { fontFamilies } from './font-families.js';
import { fontWeights } from './font-weights.js';
import { fonts } from './fonts.js';
import { gradients } from './gradients.js';
import { gridAreas } from './grid-areas.js';
import { gridLines } from './grid-lines.js';
import { imports } from './imports.js';
import { initialValues } from './initial-values.js';
import { foldLonghands } from './fold-longhands.js';
import { keyframeNames } from './keyframe-names.js';
import { mediaTypes } from './media-types.js';
import { numbers } from './numbers.js';
import { redundantDeclarations } from './redundant-declarations.js';
import { positions } from './positions.js';
import { pseudoElements } from './pseudo-elements.js';
import { repeatedSelectors } from './repeated-selectors.js';
import type { StyleRewrite } from './rewrite.js';
import { sameBlocks } from './same-blocks.js';
import { sameConditions } from './same-conditions.js';
import { sameSelectors } from './same-selectors.js';
import { selectorLists } from './selector-lists.js';
import { shorthands } from './shorthands.js';
import { boxShorthands } from './box-shorthands.js';
import { times } from './times.js';
import { transforms } from './transforms.js';
import { transitions } from './transitions.js';
import { unicodeRanges } from './unicode-ranges.js';
import { universalSelectors } from './universal-selectors.js';
import { zeros } from './zeros.js';

/** All rewrites of style sheets, in the order in which they are applied to a node. */
export const styleRewrites: readonly StyleRewrite[] = [
  numbers,
  fallbacks,
  zeros,
  times,
  calculations,
  colors,
  gradients,
  transforms,
  easings,
  fontWeights,
  unicodeRanges,
  boxShorthands,
  positions,
  backgrounds,
  initialValues,
  fonts,
  fontFamilies,
  flex,
  gridAreas,
  gridLines,
  transitions,
  escapes,
  universalSelectors,
  pseudoElements,
  selectorLists,
  keyframeNames,
  mediaTypes,
  imports,
  charset,
  emptyRules,
  repeatedSelectors,
  redundantDeclarations,
  foldLonghands,
  shorthands,
  sameSelectors,
  sameBlocks,
  sameConditions,
];
