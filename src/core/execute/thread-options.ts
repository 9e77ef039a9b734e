/** Newer versions of Node.js may not know it. */
const importsOnly = '--no-experimental-require-module';

/**
 * Options of Node.js for worker threads: their modules are imported, not required. Ending a thread while it requires an ES
 * module can abort the whole process.
 */
export const threadOptions: readonly string[] = [
  ...process.execArgv,
  ...(process.allowedNodeEnvironmentFlags.has(importsOnly) ? [importsOnly] : []),
];
