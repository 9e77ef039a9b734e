export { isAscii, PrintedText } from './printed.js';
export { TextBuilder, type CopiedText } from './text.js';
export {
  flatMap,
  SectionBuilder,
  type AnySourceMap,
  type MappedText,
  type MapSection,
  type SectionedMap,
} from './sections.js';
export { joinedMap } from './joined-map.js';
export { identityMap } from './identity.js';
export {
  composeMaps,
  copyContents,
  emptyMap,
  encodeMap,
  MapBuilder,
  readMap,
  traceBack,
  type SourceMap,
} from './map.js';
