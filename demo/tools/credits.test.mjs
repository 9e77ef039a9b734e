import assert from 'node:assert/strict';
import { withCredits } from './credits.mjs';

const credits = { season: 12, people: ['Ida Fern', 'Tor Lantern'] };
assert.equal(withCredits('<footer>Hill</footer>', credits), '<footer>Hill Season 12: Ida Fern, Tor Lantern.</footer>');
assert.equal(withCredits('<p>No footer</p>', credits), '<p>No footer</p>');
console.log('2 checks of the credits passed');
