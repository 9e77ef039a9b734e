import { ageOf } from './age.js';

/** Reports whether there is no moonlight to walk by. */
export const isDark = (date) => ageOf(date) < 1.5;
