/**
 * Reports whether a text may have the name of a constant.
 *
 * @example isInText('process.env.NODE_ENV', 'const { NODE_ENV } = process.env;') // true
 */
export const isInText = (name: string, text: string): boolean => text.includes(name.slice(name.lastIndexOf('.') + 1));
