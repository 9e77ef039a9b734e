import { cpSync, mkdirSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';

/**
 * Copies the demo to a folder and links its packages, as `npm install` would install them.
 *
 * @param clone the folder of the repository
 */
export function copyDemo(clone: string, folder: string): void {
  cpSync(join(clone, 'demo'), folder, { recursive: true });
  mkdirSync(join(folder, 'node_modules'), { recursive: true });
  symlinkSync('../packages/fernlight-moon', join(folder, 'node_modules', 'fernlight-moon'));
  symlinkSync(join(clone, 'node_modules', 'sharp'), join(folder, 'node_modules', 'sharp'));
}
