import { schemaOf, type SettingsClass } from './field.js';
import type { JsonSchema } from './value-types.js';
import {
  PipelineSettings,
  ProfileSettings,
  ProjectSettings,
  ServeSettings,
  CommonStepOptions,
  StoreSettings,
} from './settings.js';
import type { StepCatalogue, StepDefinition } from './steps.js';

/**
 * The JSON Schema (draft 2020-12) of the project file, made from the settings classes that also validate it.
 */
export function projectSchema(catalogue: StepCatalogue): JsonSchema {
  return {
    $schema: 'https://json-schema.org/draft/2020-12/schema',
    title: 'Project file of Loyal Anvil',
    ...withProperties(ProjectSettings, {
      profiles: { additionalProperties: { oneOf: [{ $ref: '#/$defs/profile' }, { type: 'null' }] } },
      pipelines: { minProperties: 1, additionalProperties: { $ref: '#/$defs/pipeline' } },
      serve: { $ref: '#/$defs/serve' },
      store: { $ref: '#/$defs/store' },
    }),
    $defs: {
      profile: schemaOf(ProfileSettings),
      pipeline: {
        ...withProperties(PipelineSettings, { steps: { items: { $ref: '#/$defs/step' } } }),
        // Without `to`, it publishes nothing; without sources as well, its steps are commands.
        anyOf: [{ required: ['from', 'to'] }, { required: ['steps'], not: { required: ['to'] } }],
      },
      serve: schemaOf(ServeSettings),
      store: schemaOf(StoreSettings),
      step: {
        oneOf: [
          { enum: catalogue.steps.filter((step) => !needsOptions(step)).map((step) => step.name) },
          ...catalogue.steps.map(stepSchema),
        ],
      },
    },
  };
}

function withProperties(settings: SettingsClass, more: Record<string, JsonSchema>): JsonSchema {
  const schema = schemaOf(settings);
  const properties = Object.entries(schema['properties'] as Record<string, JsonSchema>);
  return { ...schema, properties: Object.fromEntries(properties.map(([key, one]) => [key, { ...one, ...more[key] }])) };
}

function stepSchema(step: StepDefinition): JsonSchema {
  const own = schemaOf(step.options);
  const common = schemaOf(CommonStepOptions);
  const ownProperties = own['properties'] as Record<string, JsonSchema>;
  const options = { ...own, properties: { ...ownProperties, ...(common['properties'] as object) } };
  const forms = [options, ...(step.mainOption === undefined ? [{ type: 'null' }] : [ownProperties[step.mainOption]])];
  return {
    type: 'object',
    description: step.doc,
    properties: { [step.name]: { oneOf: forms } },
    required: [step.name],
    additionalProperties: false,
  };
}

const needsOptions = (step: StepDefinition): boolean => schemaOf(step.options)['required'] !== undefined;
