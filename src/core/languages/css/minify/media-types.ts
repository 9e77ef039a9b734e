import type { CssNodePlain } from 'css-tree';
import type { StyleRewrite } from './rewrite.js';

/** Removes `all` from media queries with conditions. */
export const mediaTypes: StyleRewrite = {
  name: 'media-types',
  doc: 'Removes `all and` from media queries, because queries without a media type apply to all media.',
  reference: 'Media Queries Level 4, section 2.2',
  atRule({ name, prelude }) {
    if (name.toLowerCase() !== 'media' || prelude?.type !== 'AtrulePrelude') return;
    for (const query of prelude.children.flatMap(queriesOf))
      if (
        query.type === 'MediaQuery' &&
        query.mediaType?.toLowerCase() === 'all' &&
        query.modifier === null &&
        query.condition &&
        isPlain(query.condition)
      )
        query.mediaType = null;
  },
};

const queriesOf = (node: CssNodePlain): CssNodePlain[] => (node.type === 'MediaQueryList' ? node.children : []);

/** After a media type, a top-level `or` is invalid, and unparsed conditions are not changed. */
const isPlain = (condition: CssNodePlain): boolean => condition.type === 'Condition';
