// The database, linked into one file in the release: its package runs a script when it is installed, which this one spares
// its users. The native part is a package of its own for each platform. It is found by the name in the package.json beside
// this file, whose folder the database takes for its own.
export { open } from 'lmdb';
