/** Globals that the language defines since ES5 (ECMA-262, section 19): reading them neither fails nor does anything. */
const oldGlobals =
  'undefined NaN Infinity Object Function Array String Number Boolean Date RegExp Math JSON Error EvalError RangeError ' +
  'ReferenceError SyntaxError TypeError URIError parseInt parseFloat isNaN isFinite encodeURI encodeURIComponent ' +
  'decodeURI decodeURIComponent';

/** Globals added since ES2015. */
const newerGlobals =
  'Symbol Promise Map Set WeakMap WeakSet Proxy Reflect ArrayBuffer DataView Int8Array Uint8Array Uint8ClampedArray ' +
  'Int16Array Uint16Array Int32Array Uint32Array Float32Array Float64Array';

const old = new Set(oldGlobals.split(' '));
const newer = new Set(newerGlobals.split(' '));

/** Reports whether a global is always there, where the language is of this year at least. */
export const isKnownGlobal = (name: string, level: number): boolean =>
  old.has(name) || (level >= 2015 && newer.has(name));

/** Constructors that, without arguments, do nothing but make an object. */
export const makesObject = new Set(['Object', 'Array', 'Map', 'Set', 'WeakMap', 'WeakSet']);
