import type { StepEnvironment } from '../assets/context.js';
import type { Contents } from '../cache/contents.js';
import type { AssetRef } from '../cache/trace.js';
import type { Step } from '../steps/step.js';

/**
 * The settings of a job with only the constants that it depends on: for most steps, those whose names the texts of its
 * assets have, so that another value of one only runs the jobs of these.
 */
export function settingsOfJob(
  step: Step,
  assets: readonly AssetRef[],
  settings: StepEnvironment,
  contents: Contents,
): StepEnvironment {
  const names = Object.keys(settings.constants);
  if (!step.usesConstant || names.length === 0) return settings;
  const texts: string[] = [];
  for (const { hash, isPristine, origins } of assets) {
    const bytes = contents.get(hash, isPristine ? origins[0] : undefined);
    // Without the text, any of them may matter; and escapes may spell any name.
    if (!bytes || Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).includes('\\u')) return settings;
    texts.push(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.length).toString('latin1'));
  }
  const isUsed = (name: string): boolean => texts.some((text) => step.usesConstant!(inLatin1(name), text));
  const used = Object.entries(settings.constants).filter(([name]) => isUsed(name));
  return { ...settings, constants: Object.fromEntries(used) };
}

/** The bytes of a name, one character each. */
const inLatin1 = (name: string): string => Buffer.from(name).toString('latin1');
