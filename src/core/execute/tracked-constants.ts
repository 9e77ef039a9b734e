import type { StepEnvironment } from '../assets/context.js';
import type { Read } from '../cache/trace.js';
import type { ConstantValue } from '../config/settings.js';
import { contentHash } from '../files/hash.js';

/** Constants by name. */
type Constants = StepEnvironment['constants'];

/**
 * Constants that report when they are read.
 *
 * @param read called with the name of each constant whose value is read
 */
export function trackedConstants(constants: Constants, read: (name: string) => void): Constants {
  const tracked: Record<string, ConstantValue> = {};
  for (const name of Object.keys(constants)) {
    const get = (): ConstantValue => {
      read(name);
      return constants[name]!;
    };
    Object.defineProperty(tracked, name, { get, enumerable: true });
  }
  return tracked;
}

/** The dependency of a job on the value of a constant. */
export const constantRead = (name: string, constants: Constants): Read => [
  'constant',
  name,
  constantHash(constants, name),
];

/** The content hash of the value of a constant; `null` if there is no such constant. */
export function constantHash(constants: Constants, name: string): string | null {
  return Object.hasOwn(constants, name) ? contentHash(JSON.stringify(constants[name])) : null;
}
