// The release contains the JavaScript of the database, linked into this file, because its package has an install script.
// Its native code is in one package per platform, which it finds by the name in the package.json of its own folder: hence
// the package.json beside this file.
export { open } from 'lmdb';
