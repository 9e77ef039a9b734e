import type { CssNodePlain, DeclarationPlain, RulePlain } from 'css-tree';
import { printSelector } from '../print/selectors.js';
import { outlived } from './flexbox.js';
import type { PrefixNeeds } from './needs.js';
import { vendorOf } from './needs.js';
import { prefixTable } from './table.js';

/** The standard names by their alternative names. */
const standards = new Map<string, string[]>();
for (const [kind, table] of Object.entries({
  property: prefixTable.properties,
  function: prefixTable.functions,
  atRule: prefixTable.atRules,
  selector: prefixTable.selectors,
}))
  for (const [standard, needs] of Object.entries(table))
    for (const spelling of Object.keys(needs)) {
      const key = `${kind} ${spelling}`;
      standards.set(key, [...(standards.get(key) ?? []), standard]);
    }

const standardsOf = (kind: 'property' | 'function' | 'atRule' | 'selector', spelling: string): readonly string[] =>
  standards.get(`${kind} ${spelling}`) ?? [];

/**
 * Reports whether a node is a prefixed duplicate of an adjacent one and no target browser needs it. Prefixed nodes
 * without a standard counterpart are preserved.
 */
export function isNeedless(node: CssNodePlain, siblings: readonly CssNodePlain[], needs: PrefixNeeds): boolean {
  if (node.type === 'Declaration') return isNeedlessDeclaration(node, siblings, needs);
  if (node.type === 'Rule') return isNeedlessRule(node, siblings, needs);
  if (node.type !== 'Atrule' || !node.block) return false;
  const name = node.name.toLowerCase();
  const head = textOfHead(node.prelude);
  return standardsOf('atRule', name).some(
    (standard) =>
      !needs.atRule(standard).includes(name) &&
      siblings.some(
        (one) => one.type === 'Atrule' && one.name.toLowerCase() === standard && textOfHead(one.prelude) === head,
      ),
  );
}

/**
 * Reports whether each selector of a rule has an alternative name that no target browser needs, and adjacent rules have
 * the standard name.
 */
function isNeedlessRule({ prelude }: RulePlain, siblings: readonly CssNodePlain[], needs: PrefixNeeds): boolean {
  if (prelude.type !== 'SelectorList' || !prelude.children.some((one) => printSelector(one).includes(':-')))
    return false;
  const beside = new Set(
    siblings.flatMap((one) =>
      one.type === 'Rule' && one.prelude.type === 'SelectorList'
        ? one.prelude.children.map((selector) => printSelector(selector))
        : [],
    ),
  );
  return prelude.children.every(
    (one) => one.type === 'Selector' && standardSelectors(one.children, needs).some((text) => beside.has(text)),
  );
}

/** Replaces each alternative name in a selector that no target browser needs by the standard name. */
function standardSelectors(parts: readonly CssNodePlain[], needs: PrefixNeeds): string[] {
  return parts.flatMap((part, at) => {
    if ((part.type !== 'PseudoClassSelector' && part.type !== 'PseudoElementSelector') || part.children) return [];
    const spelling = printSelector(part).toLowerCase();
    const before = parts
      .slice(0, at)
      .map((one) => printSelector(one))
      .join('');
    const after = parts
      .slice(at + 1)
      .map((one) => printSelector(one))
      .join('');
    return standardsOf('selector', spelling)
      .filter((standard) => !needs.selector(standard).includes(spelling))
      .map((standard) => before + standard + after);
  });
}

const textOfHead = (prelude: CssNodePlain | null): string =>
  JSON.stringify(prelude, (key: string, value: unknown) => (key === 'loc' ? undefined : value));

function isNeedlessDeclaration(node: DeclarationPlain, siblings: readonly CssNodePlain[], needs: PrefixNeeds): boolean {
  const property = node.property.toLowerCase();
  const beside = siblings.filter((one): one is DeclarationPlain => one.type === 'Declaration' && one !== node);
  const has = (name: string): boolean => beside.some((one) => one.property.toLowerCase() === name);
  const successor = outlived(property, needs);
  if (successor !== undefined && has(successor)) return true;
  if (vendorOf(property) !== '')
    return standardsOf('property', property).some(
      (standard) => has(standard) && !needs.property(standard).includes(property),
    );
  return hasNeedlessValue(node, property, beside, needs);
}

/**
 * Reports whether a value contains an alternative name that no target browser needs, and a declaration with the
 * standard name follows.
 */
function hasNeedlessValue(
  node: DeclarationPlain,
  property: string,
  beside: readonly DeclarationPlain[],
  needs: PrefixNeeds,
): boolean {
  const same = beside.filter((one) => one.property.toLowerCase() === property);
  if (node.value.type !== 'Value' || same.length === 0) return false;
  const known = Object.hasOwn(prefixTable.values, property) ? prefixTable.values[property]! : {};
  return node.value.children.some((part) => {
    if (part.type !== 'Identifier' && part.type !== 'Function') return false;
    const spelling = part.name.toLowerCase();
    if (vendorOf(spelling) === '') return false;
    const box = /^(-(?:webkit|moz)-)(inline-)?box$/.exec(spelling);
    if (box && !needs.way('box').includes(`${box[1]!}box`) && property === 'display')
      return same.some((one) => holds(one, 'Identifier', `${box[2] ?? ''}flex`));
    const words =
      part.type === 'Function'
        ? standardsOf('function', spelling).filter((one) => !needs.function(one).includes(spelling))
        : Object.keys(known).filter(
            (one) => Object.hasOwn(known[one]!, spelling) && !needs.value(property, one).includes(spelling),
          );
    return words.some((word) => same.some((one) => holds(one, part.type, word)));
  });
}

const holds = ({ value }: DeclarationPlain, type: string, word: string): boolean =>
  value.type === 'Value' &&
  value.children.some((part) => part.type === type && 'name' in part && String(part.name).toLowerCase() === word);
