/** What stands for the name of the profile in `to`, `plainNames` and `serve.folder`. */
export const profilePlaceholder = '{profile}';

/** A path or glob of the project file for a profile. */
export const forProfile = (path: string, profile: string): string => path.replaceAll(profilePlaceholder, profile);
