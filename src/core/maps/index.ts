export { identityMap } from './identity.js';
export { composeMaps, copyContents, encodeMap, MapBuilder, readMap, traceBack, type SourceMap } from './map.js';
