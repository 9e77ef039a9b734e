/** The timing of a session, in milliseconds. */
export const timing = {
  /** The quiet time before changes are handled: after one change, and after many at once. */
  debounceMs: 4,
  burstDebounceMs: 50,
  /** The maximum time for which changes are debounced. */
  maxDebounceMs: 2000,
  /** The time that an emptied or removed file is given to be written again, under another name too. */
  missingFileGraceMs: 250,
  /** The interval at which the lock of Git is checked, and the maximum wait. */
  gitPollMs: 20,
  maxGitWaitMs: 15_000,
  /** The polling interval where the system cannot report changes. */
  pollMs: 1000,
  /** The delay before the state of a build is saved for later runs: not between two edits. */
  saveDelayMs: 2000,
} as const;
