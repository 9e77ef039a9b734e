import type { ProjectConfig, PipelineConfig, ConfiguredStep } from './project-config.js';
import { ProjectDocument } from './document.js';
import type { Profile } from './profile.js';
import type { StepCatalogue } from './steps.js';

/** A checked project file as plain data, so that the same file need not be checked again. */
export interface CachedConfig {
  readonly browsers: readonly string[];
  readonly profiles: readonly Profile[];
  readonly recipes: readonly (Omit<PipelineConfig, 'steps'> & {
    readonly steps: readonly (Omit<ConfiguredStep, 'shape'> & { readonly shape: string })[];
  })[];
  readonly serve?: ProjectConfig['serve'];
  readonly storeLimit: number;
}

/** Turns a checked project into plain data. */
export function keepProject({ browsers, profiles, pipelines, serve, storeLimit }: ProjectConfig): CachedConfig {
  return {
    browsers,
    profiles: [...profiles.values()],
    recipes: pipelines.map((recipe) => ({
      ...recipe,
      steps: recipe.steps.map((step) => ({ ...step, shape: step.definition.name })),
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
  { serve, ...kept }: CachedConfig,
  file: string,
  text: string,
  catalogue: StepCatalogue,
): ProjectConfig {
  return {
    ...kept,
    ...(serve && { serve }),
    document: ProjectDocument.known(file, text),
    profiles: new Map(kept.profiles.map((profile) => [profile.name, profile])),
    pipelines: kept.recipes.map((recipe) => ({
      ...recipe,
      steps: recipe.steps.flatMap((step) => {
        const shape = catalogue.steps.find((one) => one.name === step.shape);
        return shape ? [{ ...step, shape }] : [];
      }),
    })),
  };
}
