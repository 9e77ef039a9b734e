import catalogue from './catalogue.json' with { type: 'json' };

/** A star of the invented sky over Fernlight: where it stands in degrees, and how bright it is. */
export interface Star {
  readonly name?: string;
  readonly azimuth: number;
  readonly height: number;
  readonly brightness: number;
}

/** The constellation that children learn first here. */
export const fernStars: readonly Star[] = catalogue.fern.stars;

/** Pairs of stars, by index, that the chart joins by lines. */
export const fernLines: readonly (readonly number[])[] = catalogue.fern.lines;

/** The faint stars between, always the same for one seed. */
export function* faintStars(count: number, seed = 7): Generator<Star> {
  let state = seed;
  const next = (): number => {
    state = (state * 48_271) % 2_147_483_647;
    return state / 2_147_483_647;
  };
  for (let made = 0; made < count; made++) {
    yield { azimuth: 90 + next() * 180, height: next() * 80, brightness: next() ** 3 * 0.6 };
  }
}
