/** The path of the server's own files. Names that begin with a dot are never served from the folder, so it hides none. */
export const ownFolder = '/.loyal-anvil/';

/** The first file of the script that is added to pages. */
export const clientPath = `${ownFolder}client.js`;

/** The reload channel. */
export const eventsPath = `${ownFolder}events`;
