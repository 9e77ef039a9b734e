import { commandWords } from './command-words.js';

/** The part of JSON Schema (draft 2020-12) that describes the project file. */
export type JsonSchema = { readonly [keyword: string]: unknown };

/** A type of value that a setting accepts: its validation, its name in messages, and its JSON Schema. */
export interface ValueType {
  /** Name of the validation rule. */
  readonly name: string;
  /** The type in a sentence: "takes …". */
  readonly expected: string;
  readonly schema: JsonSchema;
  /** True if the value is a path, or a list of paths, inside the project. */
  readonly isPath?: boolean;
  /** True if the step writes to this path. */
  readonly isWritten?: boolean;
  /** The format of keys, for maps. */
  readonly keys?: { readonly pattern: RegExp; readonly expected: string };
  /** Validates a value; returns the keys or indices of invalid parts, or `whole` when the value itself is invalid. */
  readonly validate: (value: unknown) => readonly (string | number)[] | typeof whole;
}

/** Stands for a value that is invalid as a whole. */
export const whole = Symbol('whole');
const kind = (name: string, expected: string, schema: JsonSchema, accepts: (value: unknown) => boolean): ValueType => ({
  name,
  expected,
  schema,
  validate: (value) => (accepts(value) ? [] : whole),
});

/** Accepts a single value or a non-empty list. */
function validateList(value: unknown, accepts: (item: unknown) => boolean): ReturnType<ValueType['validate']> {
  if (!Array.isArray(value)) return accepts(value) ? [] : whole;
  return value.length === 0 ? whole : value.flatMap((item, index) => (accepts(item) ? [] : [index]));
}

function validateMap(
  value: unknown,
  accepts: (key: string, item: unknown) => boolean,
): ReturnType<ValueType['validate']> {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return whole;
  return Object.entries(value).flatMap(([key, item]) => (accepts(key, item) ? [] : [key]));
}

const isText = (value: unknown): value is string => typeof value === 'string' && value.trim() !== '';

/** One line of text. */
export const text = kind('text', 'a text', { type: 'string', minLength: 1 }, isText);

/** A text of one line. */
export const line = kind(
  'line',
  'a text of one line',
  { type: 'string', minLength: 1, pattern: '^[^\\n\\r]+$' },
  (value) => isText(value) && !/[\n\r]/.test(value),
);

/** The path of a file, relative to some folder and inside it. */
export const filePath: ValueType = {
  ...kind(
    'file',
    'the name of a file, with folders before it where needed',
    { type: 'string', minLength: 1 },
    (value) => isText(value) && !value.endsWith('/'),
  ),
  isPath: true,
};

/** The path of a file that is written, relative to `to` and inside it. */
export const writtenPath: ValueType = { ...filePath, isWritten: true };

/** The path of a folder that files are written to, relative to `to` and inside it. */
export const writtenFolder: ValueType = {
  ...kind('folder', 'the path of a folder', { type: 'string', minLength: 1 }, isText),
  isPath: true,
  isWritten: true,
};

/** Paths of folders in the project. */
export const folderList: ValueType = { ...textList('folders', 'a folder or a list of folders'), isPath: true };

/** A folder to read from. */
export const folder: ValueType = {
  ...kind('folder', 'a folder', { type: 'string', minLength: 1 }, isText),
  isPath: true,
};

/** A name of a value in data, with dots between its parts. */
export const dataName = kind(
  'data-name',
  'a name such as `stars` or `catalogue.stars`',
  { type: 'string', pattern: '^[^.\\s]+(\\.[^.\\s]+)*$' },
  (value) => typeof value === 'string' && /^[^.\s]+(\.[^.\s]+)*$/.test(value),
);

/** `true` or `false`. */
export const flag = kind('flag', '`true` or `false`', { type: 'boolean' }, (value) => typeof value === 'boolean');

/** A TCP port number. */
export const port = kind(
  'port',
  'a port number from 1 to 65535',
  { type: 'integer', minimum: 1, maximum: 65535 },
  (value) => Number.isInteger(value) && Number(value) >= 1 && Number(value) <= 65535,
);

/** A time limit. */
export const seconds = kind(
  'seconds',
  'a whole number of seconds from 1 to 3600',
  { type: 'integer', minimum: 1, maximum: 3600 },
  (value) => Number.isInteger(value) && Number(value) >= 1 && Number(value) <= 3600,
);

/** A number of builds. */
export const count = kind(
  'count',
  'a whole number from 0 to 100',
  { type: 'integer', minimum: 0, maximum: 100 },
  (value) => Number.isInteger(value) && Number(value) >= 0 && Number(value) <= 100,
);

/** Names and addresses of hosts, without ports. */
export const hostList: ValueType = {
  ...textList('hosts', 'a host name without a port, or a list of them'),
  validate: (value) =>
    validateList(value, (one) => typeof one === 'string' && /^[\w.:[\]-]+$/.test(one) && !/:\d+$/.test(one)),
};

const prefix = /^\/[^?#*:]*$/;

/** A map from path prefixes to server URLs. */
export const proxies: ValueType = {
  name: 'proxy',
  keys: { pattern: prefix, expected: 'path prefixes that begin with `/`' },
  expected: 'a map from path prefixes, such as `/api`, to URLs, such as `http://127.0.0.1:8000`',
  schema: {
    type: 'object',
    propertyNames: { pattern: prefix.source },
    additionalProperties: { type: 'string', pattern: '^https?://' },
  },
  validate: (value) => validateMap(value, (key, url) => prefix.test(key) && isServerUrl(url)),
};

function isServerUrl(value: unknown): boolean {
  if (typeof value !== 'string' || !URL.canParse(value)) return false;
  const { protocol, search, hash } = new URL(value);
  return /^https?:$/.test(protocol) && search === '' && hash === '';
}

/** A list of strings, or one string. */
export function textList(name: string, expected: string): ValueType {
  return {
    name,
    expected,
    schema: { oneOf: [text.schema, { type: 'array', items: text.schema, minItems: 1 }] },
    validate: (value) => validateList(value, isText),
  };
}

/** A command: a text that can be split into words, or a list of words. */
export const commandLine: ValueType = {
  name: 'command',
  expected: 'a command with closed quotes, or a list of words',
  schema: { oneOf: [text.schema, { type: 'array', items: { type: 'string' }, minItems: 1 }] },
  validate: (value) =>
    typeof value === 'string'
      ? (commandWords(value)?.length ?? 0) > 0
        ? []
        : whole
      : validateList(value, (one) => typeof one === 'string' && !one.includes('\0')),
};

/** An extension of file names, without its dot. */
export const extension = kind(
  'extension',
  'an extension without a dot, such as `css`',
  { type: 'string', pattern: '^[A-Za-z0-9]+$' },
  (value) => typeof value === 'string' && /^[A-Za-z0-9]+$/.test(value),
);

const isWidth = (value: unknown): boolean => Number.isInteger(value) && Number(value) >= 1 && Number(value) <= 16384;

/** Widths of pictures. */
export const pixels: ValueType = {
  name: 'pixels',
  expected: 'a whole number of pixels from 1 to 16384, or a list of them',
  schema: {
    oneOf: [
      { type: 'integer', minimum: 1, maximum: 16384 },
      { type: 'array', items: { type: 'integer', minimum: 1, maximum: 16384 }, minItems: 1 },
    ],
  },
  validate: (value) => validateList(value, isWidth),
};

const isPercent = (value: unknown): boolean => Number.isInteger(value) && Number(value) >= 1 && Number(value) <= 100;

/** The quality of pictures: one for all formats, or by format. */
export const quality: ValueType = {
  name: 'quality',
  keys: { pattern: /^(jpeg|webp|avif)$/, expected: '`jpeg`, `webp` and `avif`' },
  expected: 'a whole number from 1 to 100, or a map from formats to such numbers',
  schema: {
    oneOf: [
      { type: 'integer', minimum: 1, maximum: 100 },
      {
        type: 'object',
        propertyNames: { enum: ['jpeg', 'webp', 'avif'] },
        additionalProperties: { type: 'integer', minimum: 1, maximum: 100 },
      },
    ],
  },
  validate: (value) =>
    typeof value === 'number'
      ? isPercent(value)
        ? []
        : whole
      : validateMap(value, (key, one) => /^(jpeg|webp|avif)$/.test(key) && isPercent(one)),
};

/** One of a few keywords. */
export function choice(...words: readonly string[]): ValueType {
  const listed = words.map((word) => `\`${word}\``).join(', ');
  return kind(
    'choice',
    `one of ${listed}`,
    { enum: words },
    (value) => typeof value === 'string' && words.includes(value),
  );
}

/** One of a few keywords, or a list of them. */
export function someOf(...words: readonly string[]): ValueType {
  const isWord = (value: unknown): boolean => typeof value === 'string' && words.includes(value);
  return {
    name: 'words',
    expected: `one of ${words.map((word) => `\`${word}\``).join(', ')}, or a list of them`,
    schema: { oneOf: [{ enum: words }, { type: 'array', items: { enum: words }, minItems: 1, uniqueItems: true }] },
    validate: (value) => validateList(value, isWord),
  };
}

const name = /^[A-Za-z_$][\w$]*$/;

/** An identifier in a script, or a list of them. */
export const names: ValueType = {
  name: 'names',
  expected: 'a name, or a list of them',
  schema: {
    oneOf: [
      { type: 'string', pattern: name.source },
      { type: 'array', items: { type: 'string', pattern: name.source }, minItems: 1, uniqueItems: true },
    ],
  },
  validate: (value) => validateList(value, (one) => typeof one === 'string' && name.test(one)),
};

/** A name of a global variable. */
export const globalName = kind(
  'global',
  'a name of a variable',
  { type: 'string', pattern: name.source },
  (value) => typeof value === 'string' && name.test(value),
);

/** A global variable, or an object in one. */
export const dottedGlobal = kind(
  'dotted-global',
  'a name of a variable, or names with dots between them',
  { type: 'string', pattern: '^[A-Za-z_$][\\w$]*(\\.[A-Za-z_$][\\w$]*)*$' },
  (value) => typeof value === 'string' && dottedName.test(value),
);

/** Import specifiers, as a list or as a map to global variables. */
export const externals: ValueType = {
  name: 'externals',
  expected: 'an import specifier, a list of them, or a map from specifiers to global variables',
  schema: {
    oneOf: [
      text.schema,
      { type: 'array', items: text.schema, minItems: 1 },
      {
        type: 'object',
        additionalProperties: { type: 'string', pattern: '^[A-Za-z_$][\\w$]*(\\.[A-Za-z_$][\\w$]*)*$' },
      },
    ],
  },
  validate: (value) =>
    typeof value === 'object' && value !== null && !Array.isArray(value)
      ? validateMap(value, (_, one) => typeof one === 'string' && dottedName.test(one))
      : isText(value)
        ? []
        : validateList(value, isText),
};

const dottedName = /^[A-Za-z_$][\w$]*(\.[A-Za-z_$][\w$]*)*$/;

/** What the text of an environment variable may stand for. */
const variableTypes = ['text', 'number', 'boolean'];

/** A map from names to JSON values that replace them in scripts. */
export const constants: ValueType = {
  name: 'constants',
  keys: { pattern: dottedName, expected: 'names, with dots between them where needed' },
  expected: 'a map from names to texts, numbers, `true`, `false`, `null`, or maps with `env`',
  schema: {
    type: 'object',
    propertyNames: { pattern: dottedName.source },
    additionalProperties: {
      oneOf: [
        { type: ['string', 'number', 'boolean', 'null'] },
        {
          type: 'object',
          properties: {
            env: { description: 'The environment variable that has the value.', type: 'string', pattern: name.source },
            default: { description: 'The value if it is not set.', type: ['string', 'number', 'boolean', 'null'] },
            type: { description: 'What its text stands for. Default: the type of `default`.', enum: variableTypes },
            secret: { description: 'Whether the value must not reach any output.', type: 'boolean' },
          },
          required: ['env'],
          additionalProperties: false,
        },
      ],
    },
  },
  validate: (value) => validateMap(value, (key, one) => dottedName.test(key) && (isPlain(one) || isVariable(one))),
};

const isPlain = (value: unknown): boolean => typeof value !== 'object' || value === null;

/** Reports whether a value reads an environment variable. */
function isVariable(value: unknown): boolean {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
  const { env, default: other, type, secret, ...rest } = value as Record<string, unknown>;
  return (
    typeof env === 'string' &&
    name.test(env) &&
    isPlain(other) &&
    (type === undefined || variableTypes.includes(String(type))) &&
    (secret === undefined || typeof secret === 'boolean') &&
    Object.keys(rest).length === 0
  );
}

/** Globs of sources: texts, or maps from `glob` to the profiles that it is for. */
export const sourceGlobs: ValueType = {
  name: 'sources',
  expected: 'a glob or a list of globs',
  schema: {
    oneOf: [
      text.schema,
      {
        type: 'array',
        items: {
          oneOf: [
            text.schema,
            {
              type: 'object',
              properties: {
                glob: text.schema,
                only: {
                  description: 'Profiles in which it is a source, and those that extend them.',
                  oneOf: [text.schema, { type: 'array', items: text.schema, minItems: 1 }],
                },
              },
              required: ['glob', 'only'],
              additionalProperties: false,
            },
          ],
        },
        minItems: 1,
      },
    ],
  },
  validate: (value) => validateList(value, (one) => isText(one) || isGlobOfProfiles(one)),
};

const hasOnlyTexts = (value: unknown): boolean => {
  const invalid = validateList(value, isText);
  return invalid !== whole && invalid.length === 0;
};

function isGlobOfProfiles(value: unknown): boolean {
  if (typeof value !== 'object' || value === null || Array.isArray(value)) return false;
  const { glob, only, ...rest } = value as Record<string, unknown>;
  return isText(glob) && hasOnlyTexts(only) && Object.keys(rest).length === 0;
}

const units: Readonly<Record<string, number>> = {
  B: 1,
  kB: 1e3,
  KiB: 2 ** 10,
  MB: 1e6,
  GB: 1e9,
  MiB: 2 ** 20,
  GiB: 2 ** 30,
};
const sizePattern = /^(\d+(?:\.\d+)?) ?(B|kB|KiB|MB|GB|MiB|GiB)$/;
const largeSizePattern = /^(\d+(?:\.\d+)?) ?(MB|GB|MiB|GiB)$/;

/** A size of at least one megabyte. */
export const size = kind(
  'size',
  'a size from `1 MB` on, such as `500 MB` or `2 GiB`',
  { type: 'string', pattern: largeSizePattern.source },
  (value) => typeof value === 'string' && largeSizePattern.test(value) && (bytesOf(value) ?? 0) >= units['MB']!,
);

/** The size of a file. */
export const fileSize = kind(
  'fileSize',
  'a size, such as `500 B` or `4 kB`',
  { type: 'string', pattern: sizePattern.source },
  (value) => typeof value === 'string' && bytesOf(value) !== undefined,
);

/** Parses a size to bytes; undefined if it is invalid. */
export function bytesOf(text: string): number | undefined {
  const [, number, unit] = sizePattern.exec(text.trim()) ?? [];
  return number === undefined ? undefined : Math.floor(Number(number) * units[unit!]!);
}

/** A map from extensions and globs to sizes. */
export const sizeLimits: ValueType = {
  name: 'limits',
  expected: 'a map from extensions, such as `js`, or globs of outputs to sizes, such as `200 kB`',
  schema: {
    type: 'object',
    additionalProperties: { type: 'string', pattern: sizePattern.source },
  },
  validate: (value) => validateMap(value, (_, one) => typeof one === 'string' && bytesOf(one) !== undefined),
};

/** A list whose items are validated elsewhere. */
export const stepList = kind('steps', 'a list of steps', { type: 'array' }, Array.isArray);

/** Describes the type of a value in a sentence: "a number", "a list". */
export function describeValue(value: unknown): string {
  if (value === null || value === undefined) return 'nothing';
  if (value === '') return 'an empty text';
  if (Array.isArray(value)) return value.length === 0 ? 'an empty list' : 'a list';
  if (typeof value === 'object') return 'a map';
  if (typeof value === 'string') return `the text "${value.length > 40 ? `${value.slice(0, 40)}…` : value}"`;
  if (typeof value === 'number') return `the number ${String(value)}`;
  return `\`${String(value)}\``;
}

/** A map whose values are validated elsewhere. */
export function mapOf(name: string, expected: string): ValueType {
  return kind(
    name,
    expected,
    { type: 'object' },
    (value) => typeof value === 'object' && value !== null && !Array.isArray(value),
  );
}
