/** The role of a file in a site. */
export type FormatKind = 'style' | 'script' | 'template' | 'page' | 'image' | 'font' | 'media' | 'archive' | 'document';

/** A file format, by its extension. */
export interface Format {
  readonly kind: FormatKind;
  /** The extension after `compile`; browsers do not read the format itself. */
  readonly compiledTo?: string;
  /** The compiler that reads it. */
  readonly compiler?: 'sass' | 'less' | 'typescript' | 'coffee' | 'pug' | 'handlebars' | 'markdown';
  /** For scripts whose extension decides it: whether they are ES modules (Node.js, "determining module system"). */
  readonly isModule?: boolean;
  /** True if the content is already compressed, so that servers do not compress it again. */
  readonly isCompressed?: boolean;
  /** The media type, for pictures (IANA, "Media Types"). */
  readonly mediaType?: string;
}

const script = { kind: 'script', compiler: 'typescript' } as const;
const image = { kind: 'image', isCompressed: true } as const;
const font = { kind: 'font' } as const;
const media = { kind: 'media', isCompressed: true } as const;
const archive = { kind: 'archive', isCompressed: true } as const;

/** All file formats with special treatment, by their extension in lower case. */
export const formats: Readonly<Record<string, Format>> = {
  css: { kind: 'style' },
  scss: { kind: 'style', compiler: 'sass', compiledTo: 'css' },
  sass: { kind: 'style', compiler: 'sass', compiledTo: 'css' },

  less: { kind: 'style', compiler: 'less', compiledTo: 'css' },

  js: script,
  mjs: { ...script, isModule: true },
  cjs: { ...script, isModule: false },
  ts: { ...script, compiledTo: 'js' },
  tsx: { ...script, compiledTo: 'js' },
  jsx: { ...script, compiledTo: 'js' },
  mts: { ...script, compiledTo: 'mjs', isModule: true },
  cts: { ...script, compiledTo: 'cjs', isModule: false },

  coffee: { kind: 'script', compiler: 'coffee', compiledTo: 'js' },
  pug: { kind: 'template', compiler: 'pug', compiledTo: 'js' },
  hbs: { kind: 'template', compiler: 'handlebars', compiledTo: 'js' },

  html: { kind: 'page' },
  htm: { kind: 'page' },
  md: { kind: 'template', compiler: 'markdown', compiledTo: 'html' },

  png: { ...image, mediaType: 'image/png' },
  jpg: { ...image, mediaType: 'image/jpeg' },
  jpeg: { ...image, mediaType: 'image/jpeg' },
  gif: { ...image, mediaType: 'image/gif' },
  webp: { ...image, mediaType: 'image/webp' },
  avif: { ...image, mediaType: 'image/avif' },
  svg: { kind: 'image', mediaType: 'image/svg+xml' },
  ico: { kind: 'image', mediaType: 'image/x-icon' },
  bmp: { kind: 'image', mediaType: 'image/bmp' },

  woff: { ...font, isCompressed: true },
  woff2: { ...font, isCompressed: true },
  ttf: font,
  otf: font,

  mp3: media,
  mp4: media,
  webm: media,
  ogg: media,

  zip: archive,
  gz: archive,
  br: archive,
  pdf: { kind: 'document', isCompressed: true },
};

/** The kinds of asset that steps distinguish. */
export type AssetKind = 'style' | 'script' | 'other';

/** The extension of a path in lower case, without its dot; empty when it has none. */
export function extensionOf(path: string): string {
  return /[^/]\.([^./]+)$/.exec(path)?.[1]?.toLowerCase() ?? '';
}

/** The format of a file; undefined for one without special treatment. */
export function formatOf(path: string): Format | undefined {
  const extension = extensionOf(path);
  return Object.hasOwn(formats, extension) ? formats[extension] : undefined;
}

/** The kind of an asset that browsers can read; `other` for one that has to be compiled. */
export function kindOf(path: string): AssetKind {
  const format = formatOf(path);
  if (format === undefined || format.compiledTo !== undefined) return 'other';
  return format.kind === 'style' || format.kind === 'script' ? format.kind : 'other';
}

/** The formats whose files refer to others. */
export type ReferringFormat = 'page' | 'style' | 'script' | 'svg' | 'manifest';

/** The format of a file that may refer to others; undefined for others. A web app manifest is known by its name. */
export function referringFormat(path: string): ReferringFormat | undefined {
  const kind = kindOf(path);
  if (kind !== 'other') return kind;
  if (isPage(path)) return 'page';
  if (extensionOf(path) === 'svg') return 'svg';
  return /\.webmanifest$|(^|\/)manifest\.json$/i.test(path) ? 'manifest' : undefined;
}

export const isPage = (path: string): boolean => formatOf(path)?.kind === 'page';

/** A path with another extension. */
export function withExtension(path: string, extension: string): string {
  return path.replace(/\.[^./]+$/, `.${extension}`);
}

/** The path of a file after `compile`. */
export function compiledPath(path: string): string {
  const extension = formatOf(path)?.compiledTo;
  return extension === undefined ? path : withExtension(path, extension);
}

/** The extensions of formats that fit a condition, in the order of the table. */
export function extensionsWhere(fits: (format: Format) => boolean): string[] {
  return Object.keys(formats).filter((extension) => fits(formats[extension]!));
}
