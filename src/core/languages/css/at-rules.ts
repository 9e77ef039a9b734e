import type { AtrulePlain, CssNodePlain } from 'css-tree';

/** The properties of an at-rule that matter when style sheets are rewritten, prefixed or joined. */
export interface AtRule {
  /** The content of its block. */
  readonly block: 'rules' | 'keyframes' | 'declarations' | 'descriptors' | 'none';
  /** True if it is only valid before the rules of a sheet, and no rule is affected by its position. */
  readonly isHeader?: boolean;
  /** True if its rules apply under a condition, so that blocks with the same condition may be merged. */
  readonly isCondition?: boolean;
  /** True if its rules compete with others by more than layers, specificity and order. */
  readonly hasOwnOrder?: boolean;
  /** True if it has no effect without content. */
  readonly isEmptyable?: boolean;
  /** True if it defines something by name: the last definition counts, or all of them are combined in order. */
  readonly isDefinition?: boolean;
  /** True if it also exists with a vendor prefix. */
  readonly isPrefixed?: boolean;
}

const descriptors: AtRule = { block: 'descriptors', isDefinition: true };
const condition: AtRule = { block: 'rules', isCondition: true, isEmptyable: true };
const header: AtRule = { block: 'none', isHeader: true };

/** The at-rules of CSS, by the specification that defines each. */
const atRules: Readonly<Record<string, AtRule>> = {
  // CSS Syntax Level 3; CSS Cascade Level 5; CSS Namespaces Level 3
  charset: header,
  import: header,
  namespace: header,
  layer: { block: 'rules' },
  // CSS Conditional Rules Levels 3 to 5
  media: condition,
  supports: condition,
  container: condition,
  document: { block: 'rules', hasOwnOrder: true, isPrefixed: true },
  // CSS Cascade Level 6; CSS Transitions Level 2
  scope: { block: 'rules', hasOwnOrder: true },
  'starting-style': { block: 'rules', hasOwnOrder: true, isEmptyable: true },
  // CSS Animations Level 1
  keyframes: { block: 'keyframes', isDefinition: true, isPrefixed: true },
  // CSS Paged Media Level 3; CSS Device Adaptation Level 1; CSS Anchor Positioning Level 1
  page: { block: 'declarations', isDefinition: true },
  viewport: { block: 'declarations', isDefinition: true, isPrefixed: true },
  'position-try': { block: 'declarations', isDefinition: true },
  // CSS Fonts Level 4; CSS Counter Styles Level 3; CSS Properties and Values Level 1; CSS Color Level 5
  'font-face': descriptors,
  'font-palette-values': descriptors,
  'font-feature-values': descriptors,
  'counter-style': descriptors,
  property: descriptors,
  'color-profile': descriptors,
  // CSS View Transitions Level 2; CSS Functions and Mixins; Media Queries Level 5
  'view-transition': descriptors,
  function: descriptors,
  'custom-media': { block: 'none', isDefinition: true },
};

/** The name of an at-rule in lower case, without the vendor prefix if it exists without one. */
export function standardName(name: string): string {
  const lower = name.toLowerCase();
  const standard = lower.replace(/^-\w+-/, '');
  return standard !== lower && atRules[standard]?.isPrefixed ? standard : lower;
}

/** Looks up an at-rule by its name; undefined for unknown ones. */
export function atRule(name: string): AtRule | undefined {
  const standard = standardName(name);
  return Object.hasOwn(atRules, standard) ? atRules[standard] : undefined;
}

/** Reports whether a node is an at-rule of a name without a vendor prefix. */
export const isAtRule = (node: CssNodePlain, name: string): node is AtrulePlain =>
  node.type === 'Atrule' && node.name.toLowerCase() === name;
