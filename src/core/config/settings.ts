import { Field } from './field.js';
import {
  choice,
  constants,
  count,
  filePath,
  fileSize,
  flag,
  hostList,
  line,
  mapOf,
  port,
  proxies,
  size,
  sizeLimits,
  someOf,
  sourceGlobs,
  stepList,
  text,
  textList,
} from './value-types.js';

/** The form in which source maps are published. */
export type Maps = 'file' | 'inline' | 'none';

/** The names of published files: as they are, or with a hash of their content. */
export type Names = 'plain' | 'hashed';

/** A content coding that servers can send files in (RFC 9110, section 8.4.1; RFC 7932). */
export type Encoding = 'gzip' | 'br';

/** The form in which assets become outputs. */
export interface OutputForm {
  readonly maps: Maps;
  /** The encodings in which outputs are also written; none if their content is not final. */
  readonly encodings: readonly Encoding[];
  /** False if outputs are named by their content afterwards, which may change the references in them. */
  readonly isFinal: boolean;
  /** The browsers that have to know the syntax of scripts, or a warning says so. */
  readonly checkedFor: readonly string[];
  /** True in development, where scripts that a step has put together from valid ones are not parsed again. */
  readonly trustsSteps: boolean;
}

/** A value that a script sees in place of a constant's name. */
export type ConstantValue = string | number | boolean | null;

/** A constant whose value an environment variable has. */
export interface Variable {
  readonly env: string;
  /** The value if the variable is not set; without it, that is an error. */
  readonly default?: ConstantValue;
  /** What its text stands for; the type of `default` if it is left out. */
  readonly type?: 'text' | 'number' | 'boolean';
  /** True if the value must not reach any output. */
  readonly secret?: boolean;
}

/** A glob of sources that are only those of some profiles. */
export interface ProfileGlob {
  readonly glob: string;
  readonly only: string | readonly string[];
}

/** A named set of settings, as written under `profiles`. */
export class ProfileSettings {
  @Field(text, { doc: 'Another profile whose settings this one inherits.' })
  extend?: string;

  @Field(choice('file', 'inline', 'none'), {
    doc: 'Source maps: in a separate file, inline, or none.',
    default: '`file` in development, `none` elsewhere',
  })
  maps?: Maps;

  @Field(textList('browsers', 'a browser query or a list of them'), {
    doc: 'Target browsers of this profile: a Browserslist query or a list of queries.',
    default: 'those of the project',
  })
  browsers?: string | string[];

  @Field(constants, {
    doc: 'Names that are replaced with values in scripts, such as `DEBUG: false`. `{ env: NAME }` takes the value of an environment variable.',
    default: '`process.env.NODE_ENV`: `"development"` in the profile `development`, otherwise `"production"`',
  })
  constants?: Record<string, ConstantValue | Variable>;

  @Field(someOf('gzip', 'br', 'none'), {
    doc: 'Compressed copies to write beside outputs of at least 1 kB, for servers that send them: `gzip` (`.gz`), `br` (Brotli, `.br`). Formats that are already compressed have none.',
    default: '`none`',
  })
  compress?: Encoding | 'none' | (Encoding | 'none')[];

  @Field(choice('plain', 'hashed'), {
    doc: 'Names of outputs. `hashed` adds a hash of the content, such as `site-3f2a9c1b04.css`, and rewrites all references. Pages and files whose addresses are fixed, such as `robots.txt`, keep their names.',
    default: '`plain`',
  })
  names?: Names;

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of further outputs that keep their names with `names: hashed`, relative to the project, in order; `!glob` excludes matches of the preceding globs.',
    default: 'none',
  })
  plainNames?: string | string[];

  @Field(flag, {
    doc: 'Add `integrity` attributes to the elements of pages that load scripts and style sheets of the site.',
    default: '`false`',
  })
  integrity?: boolean;

  @Field(fileSize, {
    doc: 'With `names: hashed`, the size up to which pictures are written into style sheets and pages, and style sheets and scripts into pages. Elements of pages with the attribute `data-inline` are replaced whatever the size.',
    default: 'none',
  })
  inline?: string;

  @Field(count, {
    doc: 'The number of builds that outputs stay after nothing refers to them any more, for servers that still hand out older pages: with `2`, a file that a build replaces is removed two builds later. Builds that replace and remove nothing do not count.',
    default: '`0`',
  })
  keep?: number;

  @Field(sizeLimits, {
    doc: 'The sizes that outputs may have, as they are sent with gzip: a map from extensions, such as `js: 200 kB`, or globs of outputs, relative to the project. All outputs that one stands for count together. A build that exceeds a limit publishes nothing; sessions do not check them.',
    default: 'none',
  })
  limits?: Record<string, string>;
}

/** A pipeline, as written under `pipelines`. */
export class PipelineSettings {
  @Field(line, {
    doc: 'What the pipeline is for, in one line; `list` and the completion of shells show it.',
    default: 'none',
  })
  description?: string;

  @Field(sourceGlobs, {
    doc: 'Globs of the sources, in order; `!glob` excludes matches of the preceding globs. `{ glob: …, only: NAME }` is for some profiles; `pkg:NAME/GLOB` matches files of an installed package.',
    default: 'none: the steps are commands without sources',
  })
  from?: string | (string | ProfileGlob)[];

  @Field(stepList, { doc: 'The steps, in order.', default: 'none: the sources are copied' })
  steps?: unknown[];

  @Field(text, {
    doc: 'The folder that the outputs are written to. `{profile}` in it stands for the name of the profile.',
    default: 'none: nothing is published',
  })
  to?: string;

  @Field(text, {
    doc: 'The folder that output paths are relative to: each source keeps its path below this folder under `to`.',
    default: 'the part of each glob before its first wildcard',
  })
  base?: string;

  @Field(textList('names', 'the name of a pipeline or a list of names'), {
    doc: 'Pipelines that have to run first, where this does not follow from the files they read.',
    default: 'none',
  })
  after?: string | string[];

  @Field(someOf('gzip', 'br', 'none'), {
    doc: 'The same as in a profile, for this pipeline.',
    default: 'as in the profile',
  })
  compress?: Encoding | 'none' | (Encoding | 'none')[];

  @Field(choice('plain', 'hashed'), {
    doc: 'The same as in a profile, for this pipeline.',
    default: 'as in the profile',
  })
  names?: Names;
}

/** The encodings that a value of `compress` names; undefined if it is not given. */
export function encodingsOf(written: ProfileSettings['compress']): readonly Encoding[] | undefined {
  if (written === undefined) return undefined;
  return [...new Set([written].flat())].filter((one) => one !== 'none').sort();
}

/** Settings of the development server. */
export class ServeSettings {
  @Field(text, { doc: 'The folder to serve.', required: true })
  folder!: string;

  @Field(port, { doc: 'The port to listen on; if it is in use, the next free port.', default: '4600' })
  port?: number;

  @Field(text, {
    doc: 'The address to listen on. Other than loopback addresses make the site visible in the network.',
    default: '`127.0.0.1`',
  })
  host?: string;

  @Field(hostList, {
    doc: 'Additional host names that the server accepts.',
    default: 'only `localhost` and addresses of this machine',
  })
  hosts?: string | string[];

  @Field(filePath, {
    doc: 'The page to serve for paths without a file, for sites with client-side routing.',
    default: 'none: a 404 page',
  })
  fallback?: string;

  @Field(proxies, {
    doc: 'Path prefixes and the servers that requests are forwarded to, WebSockets included. A server URL without a path receives the whole request path; one with a path replaces the prefix. With the prefix `/`, existing files take precedence.',
    default: 'none',
  })
  proxy?: Record<string, string>;
}

/** Settings of the store. */
export class StoreSettings {
  @Field(size, {
    doc: 'The maximum size of the store after a build; the least recently used entries are evicted first.',
    default: '`1 GiB`',
  })
  limit?: string;
}

/** Options that every step accepts. */
export class CommonStepOptions {
  @Field(textList('names', 'the name of a profile or a list of names'), {
    doc: 'Profiles in which the step runs.',
    default: 'all',
  })
  only?: string | string[];

  @Field(text, {
    doc: 'A glob of asset paths under `to`; other assets skip the step. Without `/`, it matches file names.',
    default: 'every asset',
  })
  match?: string;
}

/** The whole project file. */
export class ProjectSettings {
  @Field(textList('browsers', 'a browser query or a list of them'), {
    doc: 'Target browsers: a Browserslist query or a list of queries.',
    default: '`defaults`',
  })
  browsers?: string | string[];

  @Field(mapOf('profiles', 'a map from names to profiles'), {
    doc: 'Named sets of settings; `development` and `production` always exist.',
    default: 'none beside those two',
  })
  profiles?: Record<string, unknown>;

  @Field(mapOf('pipelines', 'a map from names to pipelines'), {
    doc: 'The pipelines, by name.',
    required: true,
  })
  pipelines!: Record<string, unknown>;

  @Field(mapOf('serve', 'a map of keys and values'), {
    doc: 'Settings of the development server.',
  })
  serve?: Record<string, unknown>;

  @Field(mapOf('store', 'a map of keys and values'), {
    doc: 'Settings of the store, which caches results for later builds.',
  })
  store?: Record<string, unknown>;
}
