import {
  IsDefined,
  IsOptional,
  ValidateBy,
  Validator as ClassValidator,
  type ValidationError,
} from './class-validator.js';
import {
  diagnostic,
  nearestWord,
  suggestion,
  type Code,
  type Diagnostic,
  type Parameters,
  type Place,
} from '../diagnostics/index.js';
import type { ProjectDocument, SettingPath } from './document.js';
import { fieldsOf, type SettingsClass } from './field.js';
import { describeValue, whole, type ValueType } from './value-types.js';

/** Validates parts of a project file as settings classes, and collects all mistakes. */
export class Validator {
  readonly diagnostics: Diagnostic[] = [];

  constructor(readonly document: ProjectDocument) {}

  /**
   * Validates a map of the file against a settings class.
   *
   * @param value the plain value
   * @param path its path in the document
   * @param where the map in a sentence: "the pipeline `styles`"
   * @param settings the class
   * @param shared classes with further keys of the same map
   * @param unknownKeys true to report keys that none of the classes has
   * @returns an instance with all valid values, so that the rest can still be checked; undefined if the value is not a
   *   map
   */
  settings<T extends object>(
    value: unknown,
    path: SettingPath,
    where: string,
    settings: SettingsClass<T>,
    shared?: readonly SettingsClass[],
    unknownKeys = true,
  ): Partial<T> | undefined {
    const map = this.map(value, path, where);
    if (!map) return undefined;
    const keys = [settings, ...(shared ?? [])].flatMap((one) => fieldsOf(one).map((field) => field.key));
    const unknown = unknownKeys ? Object.keys(map).filter((key) => !keys.includes(key)) : [];
    for (const key of unknown) this.unknownKey(key, [...path, key], where, keys);
    // A key that is missing because it is misspelt has already been reported.
    const misspelt = unknown.map((key) => nearestWord(key, keys));
    const own = Object.fromEntries(
      fieldsOf(settings)
        .filter(({ key }) => Object.hasOwn(map, key) && map[key] !== null)
        .map(({ key }) => [key, map[key]]),
    );
    declareRules(settings);
    const instance: Partial<T> = Object.assign(new settings(), own);
    for (const error of new ClassValidator().validateSync(instance, {
      validationError: { target: false },
      // A class without fields has no rules.
      forbidUnknownValues: false,
    })) {
      if (error.value !== undefined || !misspelt.includes(error.property)) this.#explain(error, path, where, settings);
      instance[error.property as keyof T] = undefined as never;
    }
    return instance;
  }

  /** Reads a value as a map with string keys, or reports a diagnostic. */
  map(value: unknown, path: SettingPath, where: string): Record<string, unknown> | undefined {
    if (typeof value === 'object' && value !== null && !Array.isArray(value)) return value as Record<string, unknown>;
    const key = String(path[path.length - 1] ?? where);
    this.report(
      'wrong-type',
      { key, expected: 'a map of keys and values', found: describeValue(value), about: `It describes ${where}.` },
      path,
    );
    return undefined;
  }

  /** Reports an unknown key. */
  unknownKey(key: string, path: SettingPath, where: string, known: readonly string[]): void {
    const parameters = { key, where, suggestion: suggestion(key, known, 'keys') };
    this.diagnostics.push(diagnostic('unknown-key', parameters, this.document.placeOfKey(path)));
  }

  /** Reports a diagnostic at the value of a path. */
  report<C extends Code>(code: C, parameters: Parameters<C>, path: SettingPath): void {
    this.at(code, parameters, this.document.place(path));
  }

  /** Reports a diagnostic at a position. */
  at<C extends Code>(code: C, parameters: Parameters<C>, place: Place): void {
    this.diagnostics.push(diagnostic(code, parameters, place));
  }

  #explain(error: ValidationError, path: SettingPath, where: string, settings: SettingsClass): void {
    const field = fieldsOf(settings).find(({ key }) => key === error.property);
    if (!field) return;
    const value: unknown = error.value;
    if (value === undefined) {
      const about = `${lowerFirst(field.doc)}`;
      const place = path.length > 0 ? this.document.placeOfKey(path) : this.document.place(path);
      this.diagnostics.push(diagnostic('missing-key', { key: field.key, where: upperFirst(where), about }, place));
    } else this.#wrongValue(field.key, field.kind, field.doc, value, [...path, field.key]);
  }

  #wrongValue(key: string, kind: ValueType, doc: string, value: unknown, path: SettingPath): void {
    const wrong = kind.validate(value);
    if (kind.name === 'choice' && typeof value === 'string') {
      const words = kind.schema['enum'] as string[];
      this.report('unknown-value', { key, value, suggestion: suggestion(value, words, 'values') }, path);
    } else if (wrong === whole) this.#wrongType(key, kind, doc, value, path);
    else for (const part of wrong) this.#wrongPart(key, kind, doc, value, [...path, part]);
  }

  #wrongPart(key: string, kind: ValueType, doc: string, value: unknown, path: SettingPath): void {
    const part = path[path.length - 1]!;
    if (kind.keys && !kind.keys.pattern.test(String(part))) {
      const parameters = { key, found: String(part), expected: kind.keys.expected, about: doc };
      this.diagnostics.push(diagnostic('key-form', parameters, this.document.placeOfKey(path)));
    } else this.#wrongType(key, kind, doc, (value as Record<string | number, unknown>)[part], path);
  }

  #wrongType(key: string, { expected }: ValueType, about: string, value: unknown, path: SettingPath): void {
    this.report('wrong-type', { key, expected, found: describeValue(value), about }, path);
  }
}

const ruled = new Set<SettingsClass>();

/** Registers the rules of the fields of a settings class with class-validator, once. */
function declareRules(settings: SettingsClass): void {
  if (ruled.has(settings)) return;
  ruled.add(settings);
  for (const { key, kind, required } of fieldsOf(settings)) {
    const validate = (value: unknown): boolean => isRight(kind.validate(value));
    const rule = ValidateBy({ name: kind.name, validator: { validate, defaultMessage: () => kind.expected } });
    for (const decorate of [required ? IsDefined() : IsOptional(), rule]) decorate(settings.prototype as object, key);
  }
}

const isRight = (wrong: ReturnType<ValueType['validate']>): boolean => wrong !== whole && wrong.length === 0;
const upperFirst = (text: string): string => text.charAt(0).toUpperCase() + text.slice(1);
const lowerFirst = (text: string): string => text.charAt(0).toLowerCase() + text.slice(1);
