/** The timing of a session, in milliseconds. */
export const timing = {
  /** How long no further change has to arrive before changes are handled: after one, and after many at once. */
  debounceMs: 4,
  burstDebounceMs: 50,
  /** How long changes that keep arriving are debounced at most. */
  maxDebounceMs: 2000,
  /** How long an emptied file is given to be written. */
  emptyFileGraceMs: 60,
  /** How often the lock of Git is checked, and how long it is waited for at most. */
  gitPollMs: 20,
  maxGitWaitMs: 15_000,
  /** How often all files are checked where the system cannot report changes. */
  pollMs: 1000,
  /** How long after a build its state is saved for later runs: not between two edits. */
  saveDelayMs: 2000,
} as const;
