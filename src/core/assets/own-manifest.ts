import { createRequire } from 'node:module';

/** What this package says of itself. */
export interface OwnManifest {
  readonly version: string;
  readonly description: string;
}

/** Reads the package.json of this package, which is above this module at another depth if it is linked. */
export const ownManifest = (): OwnManifest => createRequire(import.meta.url)('loyal-anvil/package.json') as OwnManifest;
