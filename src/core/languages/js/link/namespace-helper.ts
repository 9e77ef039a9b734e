/**
 * The function that makes an object like a module namespace from functions that read the exports, in the order of their
 * names (Module Namespace Exotic Objects; ECMA-262, section 10.4.6). A proxy can be like it in all respects: the properties
 * of its target are writable and not configurable, so that their values may change.
 *
 * @param name of the function
 */
export const namespaceHelper = (name: string): string => `function ${name}(getters) {
const target = Object.create(null);
for (const key in getters) Object.defineProperty(target, key, { writable: true, enumerable: true });
Object.defineProperty(target, Symbol.toStringTag, { value: 'Module' });
const own = (key) => typeof key === 'string' && key in getters;
const describe = (_, key) => own(key) ? { value: getters[key](), writable: true, enumerable: true, configurable: false } : Reflect.getOwnPropertyDescriptor(target, key);
return new Proxy(Object.preventExtensions(target), {
get: (_, key) => own(key) ? getters[key]() : target[key],
set: () => false,
getOwnPropertyDescriptor: describe,
defineProperty(_, key, wanted) {
const known = describe(_, key);
return known !== undefined && !wanted.get && !wanted.set && Object.keys(wanted).every((field) => Object.is(wanted[field], known[field]));
},
});
}
`;
