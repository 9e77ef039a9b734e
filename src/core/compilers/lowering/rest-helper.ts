import type ts from 'typescript';

/** The name of the compiler's helper for the rest of an object in a pattern. */
const helperName = 'typescript:rest';

/**
 * The helper that copies properties except some (ECMA-262, section 14.3.3.2, "RestBindingInitialization"). That of the
 * compiler assigns `__proto__`, which is then no property but the prototype.
 */
const helperText = `
var __rest = function (source, names) {
    if (source === null || source === undefined) throw new TypeError("Cannot destructure " + source);
    var target = {}, from = Object(source), keys = Object.getOwnPropertyNames(from);
    if (Object.getOwnPropertySymbols) keys = keys.concat(Object.getOwnPropertySymbols(from));
    for (var i = 0; i < keys.length; i++) {
        var key = keys[i];
        if (names.indexOf(key) >= 0 || !Object.prototype.propertyIsEnumerable.call(from, key)) continue;
        if (key === "__proto__") Object.defineProperty(target, key, { value: from[key], writable: true, enumerable: true, configurable: true });
        else target[key] = from[key];
    }
    return target;
};`;

/** Replaces the compiler's helper for the rest of an object. */
export function exactRest(compiler: typeof ts): ts.TransformerFactory<ts.SourceFile> {
  return () => (source) => {
    const helper = compiler.getEmitHelpers(source)?.find(({ name }) => name === helperName);
    if (!helper) return source;
    compiler.removeEmitHelper(source, helper);
    return compiler.addEmitHelper(source, { name: 'rest', scoped: false, text: helperText });
  };
}
