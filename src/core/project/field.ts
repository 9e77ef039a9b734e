import 'reflect-metadata';
import { getMetadataStorage, IsDefined, IsOptional, ValidateBy } from './class-validator.js';
import type { JsonSchema, Kind } from './kinds.js';

/** What the docs, the JSON Schema and the messages say about one key of the project file. */
export interface FieldAbout {
  /** One sentence for users. */
  readonly doc: string;
  readonly required?: boolean;
  /** In words, when it is not required. */
  readonly default?: string;
}

/** A key of a settings class, as declared by `Field`. */
export interface FieldInfo extends FieldAbout {
  readonly key: string;
  readonly kind: Kind;
}

/** A class that the project file, or a part of it, is turned into. */
export type SettingsClass<T extends object = object> = new () => T;

/**
 * Declares a key of a settings class: its validation by class-validator, and its part of the docs and the JSON Schema.
 */
export function Field(kind: Kind, about: FieldAbout): PropertyDecorator {
  const validate = ValidateBy(
    {
      name: kind.name,
      validator: { validate: (value) => kind.wrong(value) === undefined, defaultMessage: () => kind.expected },
    },
    { context: { kind, about } },
  );
  const presence = about.required ? IsDefined() : IsOptional();
  return (target, key) => {
    presence(target, key);
    validate(target, key);
  };
}

/** The keys of a settings class, base classes last, in the order they are declared. */
export function fieldsOf(settings: SettingsClass): readonly FieldInfo[] {
  return getMetadataStorage()
    .getTargetValidationMetadatas(settings, '', false, false)
    .flatMap((metadata) => {
      const context = metadata.context as { kind?: Kind; about?: FieldAbout } | undefined;
      return context?.kind && context.about
        ? [{ key: metadata.propertyName, kind: context.kind, ...context.about }]
        : [];
    });
}

/** The JSON Schema of one settings class. */
export function schemaOf(settings: SettingsClass): JsonSchema {
  const fields = fieldsOf(settings);
  const required = fields.filter((field) => field.required).map((field) => field.key);
  return {
    type: 'object',
    properties: Object.fromEntries(
      fields.map((field) => [field.key, { description: describe(field), ...field.kind.schema }]),
    ),
    ...(required.length > 0 && { required }),
    additionalProperties: false,
  };
}

function describe(field: FieldInfo): string {
  return field.default === undefined ? field.doc : `${field.doc} Default: ${field.default}.`;
}
