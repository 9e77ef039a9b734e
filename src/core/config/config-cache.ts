import type { CheckedProject, ProjectConfig, ConfiguredStep } from './project-config.js';
import { ProjectDocument } from './document.js';
import type { Profile } from './profile.js';
import type { StepCatalogue } from './steps.js';

/** A checked project file as plain data, so that the same file need not be checked again. */
export interface KeptProject {
  readonly browsers: readonly string[];
  readonly profiles: readonly Profile[];
  readonly recipes: readonly (Omit<ProjectConfig, 'steps'> & {
    readonly steps: readonly (Omit<ConfiguredStep, 'shape'> & { readonly shape: string })[];
  })[];
  readonly serve?: CheckedProject['serve'];
  readonly storeLimit: number;
}

/** Turns a checked project into plain data. */
export function keepProject({ browsers, profiles, recipes, serve, storeLimit }: CheckedProject): KeptProject {
  return {
    browsers,
    profiles: [...profiles.values()],
    recipes: recipes.map((recipe) => ({
      ...recipe,
      steps: recipe.steps.map((step) => ({ ...step, shape: step.shape.name })),
    })),
    storeLimit,
    ...(serve && { serve }),
  };
}

/**
 * Turns plain data back into a checked project.
 *
 * @param file how diagnostics name the project file
 * @param text its content, which has not changed since it was checked
 */
export function keptProject(
  { serve, ...kept }: KeptProject,
  file: string,
  text: string,
  catalogue: StepCatalogue,
): CheckedProject {
  return {
    ...kept,
    ...(serve && { serve }),
    document: ProjectDocument.known(file, text),
    profiles: new Map(kept.profiles.map((profile) => [profile.name, profile])),
    recipes: kept.recipes.map((recipe) => ({
      ...recipe,
      steps: recipe.steps.flatMap((step) => {
        const shape = catalogue.steps.find((one) => one.name === step.shape);
        return shape ? [{ ...step, shape }] : [];
      }),
    })),
  };
}
