export { isDark } from './light.js';
export { phaseName } from './names.js';
