/** Thrown for a file that is not what it seems to be. */
export class PictureError extends Error {}
