import { ageOf } from './age.js';

const names = ['new', 'waxing', 'full', 'waning'];

/** The name of the phase: nothing in this site uses it, so it is left out of the release. */
export const phaseName = (date) => names[Math.floor(ageOf(date) / 7.4)];
