import type { Entry } from './entry.js';
import { checks } from './checks.js';
import { commands } from './commands.js';
import { files } from './files.js';
import { linking } from './linking.js';
import { packagesAndPictures } from './packages-and-pictures.js';
import { plan } from './plan.js';
import { projectFile } from './project-file.js';
import { publishing } from './publishing.js';
import { references } from './references.js';
import { scriptsAndSheets } from './scripts-and-sheets.js';
import { sessions } from './sessions.js';
import { templates } from './templates.js';

export type { Severity } from './entry.js';

/**
 * Every diagnostic of the product, in the order of a build: project file, plan, files, steps, publishing.
 * A code never changes its meaning.
 */
export const catalogue = {
  ...projectFile,
  ...plan,
  ...files,
  ...scriptsAndSheets,
  ...linking,
  ...references,
  ...commands,
  ...templates,
  ...checks,
  ...packagesAndPictures,
  ...publishing,
  ...sessions,
};

/** A stable name of one kind of diagnostic. */
export type Code = keyof typeof catalogue;

/** The parameters of a code's sentences. */
export type Parameters<C extends Code> = (typeof catalogue)[C] extends Entry<infer P> ? P : never;
