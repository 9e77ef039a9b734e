import { suggestion } from '../diagnostics/index.js';
import {
  encodingsOf,
  type ConstantValue,
  type Encoding,
  type Maps,
  type Names,
  type ProfileSettings,
  type Variable,
} from './settings.js';
import type { Validator } from './validate.js';
import { bytesOf } from './value-types.js';

/** A profile with everything it extends worked in. */
export interface Profile {
  readonly name: string;
  readonly maps: Maps;
  /** The encodings in which outputs are also written. */
  readonly encodings: readonly Encoding[];
  readonly names: Names;
  /** Globs of outputs that keep their names. */
  readonly plainNames: readonly string[];
  /** True if pages get `integrity` attributes. */
  readonly integrity: boolean;
  /** The size in bytes up to which files are written into those that refer to them. */
  readonly inline: number;
  /** The number of builds that outputs outlive that are no longer made. */
  readonly keep: number;
  /** The sizes in bytes that outputs may have when they are sent, by extensions and globs. */
  readonly limits: readonly { readonly of: string; readonly bytes: number }[];
  readonly constants: Readonly<Record<string, ConstantValue>>;
  /** Constants whose values environment variables have. */
  readonly variables: Readonly<Record<string, Variable>>;
  /** Browser queries; undefined if the profile leaves the project's. */
  readonly browsers?: readonly string[];
  /** This profile and those it extends, nearest first, for `only`. */
  readonly lineage: readonly string[];
}

/** The profiles that always exist. */
export const builtInProfiles: Readonly<Record<string, ProfileSettings>> = {
  development: { maps: 'file' },
  production: { maps: 'none' },
};

/** The constant by which packages tell development from production. */
const environment = 'process.env.NODE_ENV';

const environmentOf = (profile: string): string => (profile === 'development' ? profile : 'production');

/** Works out every profile of a project; unknown names and circles are reported. */
export function resolveProfiles(
  written: ReadonlyMap<string, ProfileSettings>,
  validator: Validator,
): Map<string, Profile> {
  const names = new Set([...Object.keys(builtInProfiles), ...written.keys()]);
  const settings = new Map([...names].map((name) => [name, { ...builtInProfiles[name], ...written.get(name) }]));
  const resolved = new Map<string, Profile>();
  const resolve = (name: string, open: readonly string[]): Profile => {
    const known = resolved.get(name);
    if (known) return known;
    const own = settings.get(name) ?? {};
    const parent = parentOf(name, own, [...open, name], [...names], validator);
    const base = parent === undefined ? undefined : resolve(parent, [...open, name]);
    const browsers = own.browsers === undefined ? base?.browsers : [own.browsers].flat();
    const profile: Profile = {
      name,
      maps: own.maps ?? base?.maps ?? 'none',
      encodings: encodingsOf(own.compress) ?? base?.encodings ?? [],
      names: own.names ?? base?.names ?? 'plain',
      plainNames: own.plainNames === undefined ? (base?.plainNames ?? []) : [own.plainNames].flat(),
      integrity: own.integrity ?? base?.integrity ?? false,
      inline: own.inline === undefined ? (base?.inline ?? 0) : (bytesOf(own.inline) ?? 0),
      keep: own.keep ?? base?.keep ?? 0,
      limits: limitsOf(own, base?.limits ?? []),
      ...constantsOf(own, base ?? { constants: { [environment]: environmentOf(name) }, variables: {} }),
      lineage: [name, ...(base?.lineage ?? [])],
      ...(browsers && { browsers }),
    };
    resolved.set(name, profile);
    return profile;
  };
  for (const name of names) resolve(name, []);
  return resolved;
}

/** The limits of a profile and those that it inherits. */
function limitsOf({ limits = {} }: ProfileSettings, inherited: Profile['limits']): Profile['limits'] {
  const all = new Map(inherited.map(({ of, bytes }) => [of, bytes]));
  for (const [of, size] of Object.entries(limits)) all.set(of, bytesOf(size) ?? 0);
  return [...all].map(([of, bytes]) => ({ of, bytes }));
}

/** The constants of a profile and those that it inherits: plain values, and variables. */
function constantsOf(
  own: ProfileSettings,
  base: Pick<Profile, 'constants' | 'variables'>,
): Pick<Profile, 'constants' | 'variables'> {
  const all = Object.entries({ ...base.constants, ...base.variables, ...own.constants });
  const variables: Record<string, Variable> = {};
  const constants: Record<string, ConstantValue> = {};
  for (const [name, value] of all) {
    if (typeof value === 'object' && value !== null) variables[name] = value;
    else constants[name] = value;
  }
  return { constants, variables };
}

function parentOf(
  name: string,
  own: ProfileSettings,
  open: readonly string[],
  known: string[],
  validator: Validator,
): string | undefined {
  const parent = own.extend;
  if (parent === undefined) return undefined;
  const path = ['profiles', name, 'extend'];
  if (!known.includes(parent)) {
    validator.report('unknown-profile', { name: parent, suggestion: suggestion(parent, known, 'profiles') }, path);
    return undefined;
  }
  if (!open.includes(parent)) return parent;
  validator.report('profile-cycle', { names: [...open.slice(open.indexOf(parent)), parent] }, path);
  return undefined;
}
