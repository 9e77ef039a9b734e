import { Field } from './field.js';
import {
  choice,
  constants,
  filePath,
  hostList,
  mapOf,
  port,
  proxies,
  size,
  stepList,
  text,
  textList,
} from './value-types.js';

/** How source maps are published. */
export type Maps = 'file' | 'inline' | 'none';

/** A value that a script sees in place of a constant's name. */
export type ConstantValue = string | number | boolean | null;

/** A named set of settings, as written under `profiles`. */
export class ProfileSettings {
  @Field(text, { doc: 'Another profile whose settings this one starts from.' })
  extend?: string;

  @Field(choice('file', 'inline', 'none'), {
    doc: 'Source maps: in a file beside each output, inside it, or none.',
    default: '`file` in development, `none` elsewhere',
  })
  maps?: Maps;

  @Field(textList('browsers', 'a browser query or a list of them'), {
    doc: 'Target browsers of this profile, as a Browserslist query or a list of queries.',
    default: 'those of the project',
  })
  browsers?: string | string[];

  @Field(constants, { doc: 'Names that scripts see as fixed values, such as `DEBUG: false`.', default: 'none' })
  constants?: Record<string, ConstantValue>;
}

/** A pipeline, as written under `pipelines`. */
export class PipelineSettings {
  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of the sources, in order; `!glob` takes matches away from the globs before it.',
    required: true,
  })
  from!: string | string[];

  @Field(stepList, { doc: 'The steps that the sources go through, in order.', default: 'none: the sources are copied' })
  steps?: unknown[];

  @Field(text, { doc: 'The folder that the outputs are written to.', required: true })
  to!: string;

  @Field(text, {
    doc: 'The folder whose name is left out of the outputs’ paths; the rest of each path is kept under `to`.',
    default: 'what stands before the first wildcard of each glob',
  })
  base?: string;

  @Field(textList('names', 'the name of a pipeline or a list of names'), {
    doc: 'Pipelines to wait for, where the data alone does not say so.',
    default: 'none',
  })
  after?: string | string[];
}

/** What the development server needs to know. */
export class ServeSettings {
  @Field(text, { doc: 'The folder to serve.', required: true })
  folder!: string;

  @Field(port, { doc: 'The port to listen on; the next free one when it is taken.', default: '4600' })
  port?: number;

  @Field(text, {
    doc: 'The address to listen on. Beyond loopback, others in the network can see the site.',
    default: '`127.0.0.1`',
  })
  host?: string;

  @Field(hostList, {
    doc: 'More host names that the server answers to, and whose pages may listen for changes.',
    default: 'only `localhost` and addresses of this machine',
  })
  hosts?: string | string[];

  @Field(filePath, {
    doc: 'A page of the folder that is shown where there is no file, for sites that route in the browser.',
    default: 'none: a page says what is missing',
  })
  fallback?: string;

  @Field(proxies, {
    doc: 'Path prefixes and the running servers that answer for them, WebSockets included. A URL without a path gets the whole path, one with a path gets it in place of the prefix. Where the prefix is `/`, files come first.',
    default: 'none',
  })
  proxy?: Record<string, string>;
}

/** How results are kept from one build to the next. */
export class StoreSettings {
  @Field(size, {
    doc: 'The size that the store of results is kept to; what was not of use for longest goes first.',
    default: '`1 GiB`',
  })
  limit?: string;
}

/** What every step takes beside its own options. */
export class CommonStepOptions {
  @Field(textList('names', 'the name of a profile or a list of names'), {
    doc: 'Profiles in which the step runs.',
    default: 'all',
  })
  only?: string | string[];

  @Field(text, {
    doc: 'A glob of asset paths under `to`; what does not match passes the step untouched. Without `/` it is matched against file names.',
    default: 'every asset',
  })
  match?: string;
}

/** The whole project file. */
export class ProjectSettings {
  @Field(textList('browsers', 'a browser query or a list of them'), {
    doc: 'Target browsers, as a Browserslist query or a list of queries.',
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
    doc: 'Settings of the store, which holds results so that later builds need not make them again.',
  })
  store?: Record<string, unknown>;
}
