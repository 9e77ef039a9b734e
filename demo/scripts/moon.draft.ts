// A draft: the phase of the moon, for the next season. Left out of the build by the project file.
export const phase = (day: number): number => (day % 29.5) / 29.5;
