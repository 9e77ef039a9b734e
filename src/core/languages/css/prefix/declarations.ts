import type { CssNodePlain, DeclarationPlain, FunctionNodePlain } from 'css-tree';
import { splitAtCommas } from '../commas.js';
import { printComponent, printComponents } from '../print/values.js';
import { olderBackground } from './background.js';
import { olderFlexbox, type OlderDeclaration } from './flexbox.js';
import { olderGradient } from './gradient.js';
import { olderGrid } from './grid.js';
import { vendorOf, vendors, type PrefixNeeds } from './needs.js';
import { olderValues } from './older-values.js';

const none: readonly OlderDeclaration[] = [];

/** Properties whose values are property names. */
const namesProperties = /^(transition|transition-property|will-change)$/;

/**
 * Finds the declarations to insert before another one, for browsers that support its property or a part of its value
 * only under another name: in the order of the vendors, older syntax first.
 *
 * @param text the value as written
 */
export function olderDeclarations(
  node: DeclarationPlain,
  text: string,
  needs: PrefixNeeds,
  grid: boolean,
): readonly OlderDeclaration[] {
  const property = node.property.toLowerCase();
  if (property.startsWith('--') || vendorOf(property) !== '') return [];
  // In Internet Explorer, this name has another meaning.
  if (property === 'filter' && /\balpha\s*\(|progid\s*:/i.test(text)) return none;
  const value = node.value.type === 'Value' ? node.value.children : [];
  // Most declarations need no prefix.
  if (!grid && !needs.concerns(property) && !mayDiffer(value, property, needs)) return none;
  const found: OlderDeclaration[] = olderFlexbox(property, value, text, needs);
  const names = [...needs.property(property), ...otherWays(property, value, needs)];
  for (const vendor of vendors) {
    const values = respelled(value, text, property, vendor, needs);
    for (const name of names.filter((one) => vendorOf(one) === vendor))
      found.push(...(values ?? [text]).slice(0, 1).map((one) => ({ property: name, value: one })));
    // Browsers that support the property without a prefix need one list with all alternative names.
    if (values && !namesProperties.test(property)) found.push(...values.map((one) => ({ property, value: one })));
  }
  if (grid) found.push(...olderGrid(property, value));
  if (property === 'background')
    for (const name of needs.way('background-clip')) found.push(...olderBackground(value, name));
  const mapped = found.flatMap((one) => {
    if (one.property === '-webkit-mask') return olderMask(one.value, value);
    const known = olderValues[one.property];
    const words = known ? one.value.split(',').map((word) => known[word.trim().toLowerCase()]) : [one.value];
    return words.includes(undefined) ? [] : [{ property: one.property, value: words.join(', ') }];
  });
  // Some names are both in the data and in a draft.
  return mapped.filter(
    (one, at) => mapped.findIndex(({ property, value }) => property === one.property && value === one.value) === at,
  );
}

/** The older shorthand, which does not accept compositing operators: these have a separate property. */
function olderMask(text: string, value: readonly CssNodePlain[]): OlderDeclaration[] {
  const ways = olderValues['-webkit-mask-composite']!;
  const wayOf = (node: CssNodePlain): string | undefined =>
    node.type === 'Identifier' ? ways[node.name.toLowerCase()] : undefined;
  const layers = splitAtCommas(value);
  if (!layers.flat().some((node) => wayOf(node) !== undefined)) return [{ property: '-webkit-mask', value: text }];
  const plain = layers.map((layer) =>
    printComponents(
      layer.filter((node) => wayOf(node) === undefined),
      printSpaced,
    ),
  );
  const composite = layers.map((layer) => layer.map(wayOf).find((way) => way !== undefined) ?? 'source-over');
  return [
    { property: '-webkit-mask', value: plain.join(', ') },
    { property: '-webkit-mask-composite', value: composite.join(', ') },
  ];
}

/** Features in the value of a property that are not supported everywhere. */
function otherWays(property: string, value: readonly CssNodePlain[], needs: PrefixNeeds): readonly string[] {
  const isSaid =
    property === 'text-decoration'
      ? value.length > 1
      : property === 'background-clip'
        ? value.some((node) => node.type === 'Identifier' && node.name.toLowerCase() === 'text')
        : /^(break-(before|after|inside)|mask-composite)$/.test(property);
  return isSaid ? needs.way(property) : [];
}

/**
 * Replaces names in a value by those that the browsers of one vendor support.
 *
 * @returns every variant, or undefined if it is the standard one
 */
function respelled(
  value: readonly CssNodePlain[],
  text: string,
  property: string,
  vendor: string,
  needs: PrefixNeeds,
): string[] | undefined {
  if (value.length === 0 || !mayDiffer(value, property, needs)) return undefined;
  let differs = false;
  const alternatives: string[] = [];
  let isSayable = true;
  const respell = (node: CssNodePlain): CssNodePlain => {
    if (node.type === 'Identifier') {
      const ours = (spellings: readonly string[]): readonly string[] =>
        spellings.filter((one) => vendorOf(one) === vendor);
      const isName = namesProperties.test(property);
      const spellings = ours(
        isName ? needs.property(node.name.toLowerCase()) : needs.value(property, node.name.toLowerCase()),
      );
      const [spelling, ...more] = spellings;
      if (spelling === undefined) return node;
      differs = true;
      if (value.length === 1) alternatives.push(...more);
      return { ...node, name: spelling };
    }
    if (node.type === 'Parentheses') return { ...node, children: node.children.map(respell) };
    if (node.type !== 'Function') return node;
    const spelling = needs.function(node.name.toLowerCase()).find((one) => vendorOf(one) === vendor);
    if (spelling === undefined) return { ...node, children: node.children.map(respell) };
    differs = true;
    const older = olderFunction(node, spelling);
    if (!older) isSayable = false;
    return older ?? node;
  };
  const nodes = value.map(respell);
  if (!differs || !isSayable) return undefined;
  return [printComponents(nodes, printSpaced), ...alternatives].filter((one) => one !== text);
}

/** Reports whether a name in a value needs an alternative; most do not. */
function mayDiffer(nodes: readonly CssNodePlain[], property: string, needs: PrefixNeeds): boolean {
  return nodes.some((node) => {
    if (node.type === 'Identifier') {
      const name = node.name.toLowerCase();
      return (
        needs.value(property, name).length > 0 || (namesProperties.test(property) && needs.property(name).length > 0)
      );
    }
    if (node.type !== 'Function' && node.type !== 'Parentheses') return false;
    if (node.type === 'Function' && needs.function(node.name.toLowerCase()).length > 0) return true;
    return mayDiffer(node.children, property, needs);
  });
}

function olderFunction(node: FunctionNodePlain, spelling: string): CssNodePlain | undefined {
  const name = node.name.toLowerCase();
  if (name.endsWith('gradient')) {
    const text = olderGradient(node, spelling);
    return text === undefined ? undefined : { type: 'Raw', value: text };
  }
  if (name !== 'image-set') return { ...node, name: spelling };
  // It only accepted URLs, and resolutions only in x; types were not supported.
  if (node.children.some((child) => child.type === 'Function' && child.name.toLowerCase() === 'type')) return undefined;
  const children = node.children.map((child): CssNodePlain => {
    if (child.type === 'String') return { type: 'Url', value: child.value };
    return child.type === 'Dimension' && child.unit.toLowerCase() === 'dppx' ? { ...child, unit: 'x' } : child;
  });
  return { ...node, name: spelling, children };
}

/** Prints a component with a space after each comma, as authors do. */
function printSpaced(node: CssNodePlain): string {
  if (node.type === 'Function') return `${node.name}(${printComponents(node.children, printSpaced)})`;
  return printComponent(node);
}

/**
 * Adds alternative names to a list of property names, for browsers that support the property itself without a prefix.
 *
 * @returns undefined if no name needs an alternative
 */
export function withOtherNames(node: DeclarationPlain, needs: PrefixNeeds): string | undefined {
  const property = node.property.toLowerCase();
  if (!namesProperties.test(property) || node.value.type !== 'Value') return undefined;
  const parts = splitAtCommas(node.value.children);
  const isWritten = new Set(parts.flat().map((child) => (child.type === 'Identifier' ? child.name.toLowerCase() : '')));
  const all = parts.flatMap((part) => {
    const at = part.findIndex(
      (child) => child.type === 'Identifier' && needs.property(child.name.toLowerCase()).length > 0,
    );
    const name = part[at];
    if (name?.type !== 'Identifier') return [part];
    const others = needs.property(name.name.toLowerCase()).filter((one) => vendorOf(one) !== '' && !isWritten.has(one));
    return [...others.map((one) => part.map((child, index) => (index === at ? { ...name, name: one } : child))), part];
  });
  if (all.length === parts.length) return undefined;
  return all.map((part) => printComponents(part, printSpaced)).join(', ');
}
