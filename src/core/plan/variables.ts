import type { Profile } from '../config/profile.js';
import type { ProjectConfig } from '../config/project-config.js';
import type { ConstantValue, Variable } from '../config/settings.js';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { placeInProfiles } from './warnings.js';

/**
 * A profile whose constants have the values of environment variables. Secret ones have none, so that no step can write
 * them anywhere.
 *
 * @param diagnostics gets what is wrong with them
 */
export function withVariables(profile: Profile, project: ProjectConfig, diagnostics: Diagnostic[]): Profile {
  const constants: Record<string, ConstantValue> = { ...profile.constants };
  for (const [name, variable] of Object.entries(profile.variables)) {
    const { env } = variable;
    const place = placeInProfiles(['constants', name], env, profile.lineage, project);
    const value = valueOf(variable);
    if (value === undefined) diagnostics.push(diagnostic('constant-unset', { name, variable: env }, place));
    else if (typeof value === 'object' && value !== null)
      diagnostics.push(diagnostic('constant-type', { name, variable: env, type: value.expected }, place));
    else if (variable.secret !== true) constants[name] = value;
  }
  return { ...profile, constants };
}

/** A profile without the values of environment variables, which are not saved. */
export function withoutVariables(profile: Profile): Profile {
  const isOwn = ([name]: readonly [string, unknown]): boolean => !Object.hasOwn(profile.variables, name);
  return { ...profile, constants: Object.fromEntries(Object.entries(profile.constants).filter(isOwn)) };
}

/** A saved profile with the values that environment variables have now. */
export function withCurrentVariables(profile: Profile): Profile {
  const found = Object.entries(profile.variables).flatMap(([name, variable]): [string, ConstantValue][] => {
    const value = variable.secret === true ? undefined : valueOf(variable);
    return value === undefined || (typeof value === 'object' && value !== null) ? [] : [[name, value]];
  });
  return { ...profile, constants: { ...profile.constants, ...Object.fromEntries(found) } };
}

/** The value of a variable: undefined without one, or the type that its text does not have. */
function valueOf({ env, default: other, type }: Variable): ConstantValue | undefined | { readonly expected: string } {
  const text = process.env[env];
  // Shells set variables to nothing rather than removing them.
  if (text === undefined || text === '') return other;
  switch (type ?? typeof other) {
    case 'number':
      return text.trim() !== '' && Number.isFinite(Number(text)) ? Number(text) : { expected: 'number' };
    case 'boolean':
      return text === 'true' ? true : text === 'false' ? false : { expected: 'boolean' };
    default:
      return text;
  }
}
