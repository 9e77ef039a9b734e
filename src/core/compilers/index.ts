import type { Compiler } from './compiler.js';

/** Sass by its reference compiler. */
const sass: Compiler = {
  name: 'sass',
  extensions: { scss: 'css', sass: 'css' },
  toolVersions: ['sass'],
  runsInProcess: false,
  isPartial: (path) => /(^|\/)_[^/]*\.(scss|sass)$/i.test(path),
  load: async () => (await import('./sass.js')).compileSass,
  warmUp: async (context) => (await import('./sass.js')).prepareSass(context),
};

/** TypeScript, JSX, and JavaScript that is newer than the target browsers, by the reference compiler. */
const typescript: Compiler = {
  name: 'typescript',
  extensions: { ts: 'js', tsx: 'js', mts: 'mjs', cts: 'cjs', jsx: 'js', js: 'js', mjs: 'mjs', cjs: 'cjs' },
  toolVersions: ['typescript', 'acorn'],
  runsInProcess: true,
  isPartial: (path) => /\.d\.[cm]?ts$/i.test(path),
  load: async () => (await import('./typescript.js')).compileScript,
  warmUp: async () => (await import('./typescript.js')).prepareScripts(),
};

/** Every compiler; the first that takes an extension is asked. */
export const compilers: readonly Compiler[] = [sass, typescript];
