/**
 * The names of steps that run code which the project file names. They are only taken from that file itself: a checkout may
 * bring a cache that says something else.
 */
export const executingSteps: ReadonlySet<string> = new Set(['run', 'apply', 'check', 'render', 'variants']);
