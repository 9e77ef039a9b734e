import { closeSync, mkdirSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { isLink } from '../files/regular-file.js';
import { createFile, makeIgnoredFolder } from '../files/write-file.js';
import { recordFolder } from '../outputs/record.js';

/** What the commands of a pipeline have written in one build, in a file that replaces the one of the build before. */
export class CommandLog {
  #file: number | undefined;

  /**
   * @param root the project folder
   * @param name of the pipeline and the profile
   */
  constructor(
    private readonly root: string,
    private readonly name: string,
  ) {}

  /**
   * Adds a line.
   *
   * @throws the system's error if it cannot be written
   */
  add(line: string): void {
    this.#file ??= this.#create();
    writeSync(this.#file, `${line}\n`);
  }

  close(): void {
    if (this.#file !== undefined) closeSync(this.#file);
    this.#file = undefined;
  }

  #create(): number {
    const cache = join(this.root, recordFolder);
    const folder = join(cache, 'logs');
    makeIgnoredFolder(cache);
    if (isLink(cache) || isLink(folder)) throw new Error(`${recordFolder}/logs is a symbolic link`);
    mkdirSync(folder, { recursive: true });
    return createFile(join(folder, `${this.name}.log`));
  }
}
