import { createRequire } from 'node:module';
import type * as library from 'class-validator';

// The index of the package loads all of its validators, with tables of telephone numbers, and takes seven times as long
// as the parts used here. The parts have no types of their own; those of the index are the same.
const require = createRequire(import.meta.url);
const part = <Name extends keyof typeof library>(path: string): Pick<typeof library, Name> =>
  require(`class-validator/cjs/${path}.js`) as Pick<typeof library, Name>;

export const { ValidateBy } = part<'ValidateBy'>('decorator/common/ValidateBy');
export const { IsDefined } = part<'IsDefined'>('decorator/common/IsDefined');
export const { IsOptional } = part<'IsOptional'>('decorator/common/IsOptional');
export const { Validator } = part<'Validator'>('validation/Validator');
export type { ValidationError } from 'class-validator';
