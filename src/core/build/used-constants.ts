import type { StepEnvironment } from '../assets/context.js';
import type { Contents } from '../cache/contents.js';
import type { AssetRef } from '../cache/trace.js';
import type { Step } from '../steps/step.js';
import { pathsOf } from './keys.js';

/**
 * The settings of a job with only the constants that it depends on, so that another value of one only runs the jobs of
 * these: for most steps, those whose names the texts of its assets have. Steps that track constants have all of them.
 */
export function settingsOfJob(
  step: Step,
  assets: readonly AssetRef[],
  settings: StepEnvironment,
  contents: Contents,
): StepEnvironment {
  const names = Object.keys(settings.constants);
  if (names.length === 0 || step.tracksConstants === true) return settings;
  if (!pathsOf(assets).some((path) => step.settings(path).includes('constants'))) return { ...settings, constants: {} };
  const texts: string[] = [];
  for (const { hash, isPristine, origins } of assets) {
    const bytes = contents.get(hash, isPristine ? origins[0] : undefined);
    // Without the text, any of them may matter; and escapes may spell any name.
    if (!bytes || Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).includes('\\u')) return settings;
    texts.push(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString('latin1'));
  }
  const isUsed = (name: string): boolean => texts.some((text) => isInText(inLatin1(name), text));
  const used = Object.entries(settings.constants).filter(([name]) => isUsed(name));
  return { ...settings, constants: Object.fromEntries(used) };
}

/**
 * Reports whether a text may use a constant: it has the name, or the last part of a name with dots.
 *
 * @example isInText('process.env.NODE_ENV', 'const { NODE_ENV } = process.env;') // true
 */
const isInText = (name: string, text: string): boolean => text.includes(name.slice(name.lastIndexOf('.') + 1));

/** The bytes of a name, one character each. */
const inLatin1 = (name: string): string => Buffer.from(name).toString('latin1');
