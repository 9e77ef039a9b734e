import type { JsonSchema, ValueType } from './value-types.js';

/** The description of a key for the docs, the JSON Schema and messages. */
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
  readonly kind: ValueType;
}

/** A class that a map of the project file is converted to. */
export type SettingsClass<T extends object = object> = new () => T;

const declared = new Map<object, FieldInfo[]>();

/**
 * Declares a key of a settings class: its validation, and its part of the docs and the JSON Schema. Validators are
 * registered when something is validated for the first time; builds with a cached project file validate nothing.
 */
export function Field(kind: ValueType, about: FieldAbout): PropertyDecorator {
  return (target, key) => {
    const settings = target.constructor;
    declared.set(settings, [...(declared.get(settings) ?? []), { key: String(key), kind, ...about }]);
  };
}

/** The keys of a settings class, in the order they are declared. */
export function fieldsOf(settings: SettingsClass): readonly FieldInfo[] {
  return declared.get(settings) ?? [];
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
