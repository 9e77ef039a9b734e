/** Exit codes: success, build errors, invalid usage or project file, interrupted. */
export const ExitCode = { done: 0, errors: 1, usage: 2, interrupted: 130 } as const;
