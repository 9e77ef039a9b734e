import type { CssNodePlain } from 'css-tree';
import type { PrefixNeeds } from './needs.js';

/** A declaration with an alternative name. */
export interface OlderDeclaration {
  readonly property: string;
  readonly value: string;
}

/** The properties of the flexible box draft of March 2012, which one browser supported with a prefix. */
const drafted: Readonly<Record<string, string>> = {
  'align-items': '-ms-flex-align',
  'align-self': '-ms-flex-item-align',
  'align-content': '-ms-flex-line-pack',
  'justify-content': '-ms-flex-pack',
  'flex-grow': '-ms-flex-positive',
  'flex-shrink': '-ms-flex-negative',
  'flex-basis': '-ms-flex-preferred-size',
  'flex-flow': '-ms-flex-flow',
  'flex-wrap': '-ms-flex-wrap',
  order: '-ms-flex-order',
};

/** The properties of the 2009 flexible box model, by the equivalent current property. */
const boxed: Readonly<Record<string, string>> = {
  'box-flex': 'flex',
  'box-ordinal-group': 'order',
  'box-orient': 'flex-direction',
  'box-direction': 'flex-direction',
  'box-align': 'align-items',
  'box-pack': 'justify-content',
};

/**
 * Finds the current property that an older property corresponds to, if no target browser needs the older one; otherwise
 * undefined.
 */
export function outlived(property: string, needs: PrefixNeeds): string | undefined {
  const [, vendor = '', name = ''] = /^(-webkit-|-moz-)(box-.+)$/.exec(property) ?? [];
  if (Object.hasOwn(boxed, name)) return needs.way('box').includes(`${vendor}box`) ? undefined : boxed[name];
  if (needs.property('flex').includes('-ms-flex')) return undefined;
  return Object.entries(drafted).find(([, older]) => older === property)?.[0];
}

/**
 * Converts a flexible box declaration to the two older models: the boxes of 2009 (CSS Flexible Box Layout, draft of 23
 * July 2009) and the flexible boxes of 2012 (draft of 22 March 2012). Values without an equivalent are omitted.
 */
export function olderFlexbox(
  property: string,
  value: readonly CssNodePlain[],
  text: string,
  needs: PrefixNeeds,
): OlderDeclaration[] {
  const older = needs.way('box').flatMap((spelling) => olderBox(property, value, spelling.replace(/box$/, '')));
  const name = Object.hasOwn(drafted, property) ? drafted[property]! : undefined;
  const isDrafted = name !== undefined && needs.property('flex').includes('-ms-flex');
  return isDrafted ? [...older, { property: name, value: text }] : older;
}

function olderBox(property: string, value: readonly CssNodePlain[], vendor: string): OlderDeclaration[] {
  const words = value.map((node) => (node.type === 'Identifier' ? node.name.toLowerCase() : ''));
  const [first] = value;
  const word = words[0] ?? '';
  const one = (name: string, text: string): OlderDeclaration => ({ property: `${vendor}box-${name}`, value: text });
  switch (property) {
    case 'display': {
      const box = { flex: 'box', 'inline-flex': 'inline-box' }[word];
      return box === undefined ? [] : [{ property, value: vendor + box }];
    }
    case 'flex':
    case 'flex-grow': {
      const grow = { none: '0', auto: '1', initial: '0' }[word] ?? (first?.type === 'Number' ? first.value : undefined);
      return grow === undefined ? [] : [one('flex', grow)];
    }
    case 'order':
      return first?.type === 'Number' && Number(first.value) >= 0
        ? [one('ordinal-group', String(Number(first.value) + 1))]
        : [];
    case 'flex-direction':
    case 'flex-flow': {
      const direction = words.find((each) => /^(row|column)(-reverse)?$/.test(each));
      if (direction === undefined) return [];
      return [
        one('orient', direction.startsWith('row') ? 'horizontal' : 'vertical'),
        one('direction', direction.endsWith('reverse') ? 'reverse' : 'normal'),
      ];
    }
    case 'align-items':
      return value.length === 1 ? [one('align', word)] : [];
    case 'justify-content':
      return value.length === 1 ? [one('pack', word)] : [];
    default:
      return [];
  }
}
