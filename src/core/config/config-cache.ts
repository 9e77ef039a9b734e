import type { ProjectConfig, PipelineConfig, ConfiguredStep } from './project-config.js';
import { ProjectDocument } from './document.js';
import type { Profile } from './profile.js';
import type { StepCatalogue } from './steps.js';

/** A validated project file as plain data, so that an unchanged file is not validated again. */
export interface CachedConfig {
  readonly browsers: readonly string[];
  readonly profiles: readonly Profile[];
  readonly pipelines: readonly (Omit<PipelineConfig, 'steps'> & {
    readonly steps: readonly (Omit<ConfiguredStep, 'definition'> & { readonly definition: string })[];
  })[];
  readonly serve?: ProjectConfig['serve'];
  readonly storeLimit: number;
}

/** Converts a validated project to plain data. */
export function toCachedConfig({ browsers, profiles, pipelines, serve, storeLimit }: ProjectConfig): CachedConfig {
  return {
    browsers,
    profiles: [...profiles.values()],
    pipelines: pipelines.map((pipeline) => ({
      ...pipeline,
      steps: pipeline.steps.map((step) => ({ ...step, definition: step.definition.name })),
    })),
    storeLimit,
    ...(serve && { serve }),
  };
}

/**
 * Converts plain data back to a validated project.
 *
 * @param file the name of the project file in diagnostics
 * @param text its content, unchanged since it was validated
 */
export function fromCachedConfig(
  { serve, ...cached }: CachedConfig,
  file: string,
  text: string,
  catalogue: StepCatalogue,
): ProjectConfig {
  return {
    ...cached,
    ...(serve && { serve }),
    document: ProjectDocument.known(file, text),
    profiles: new Map(cached.profiles.map((profile) => [profile.name, profile])),
    pipelines: cached.pipelines.map((pipeline) => ({
      ...pipeline,
      steps: pipeline.steps.flatMap((step) => {
        const definition = catalogue.steps.find((one) => one.name === step.definition);
        return definition ? [{ ...step, definition }] : [];
      }),
    })),
  };
}
