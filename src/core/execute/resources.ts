import type { Resource } from '../assets/context.js';

/** Resources that are created once per run, such as compiler processes, and closed at its end. */
export class RunResources {
  readonly #made = new Map<string, Promise<Resource>>();

  get<T extends Resource>(name: string, make: () => Promise<T>): Promise<T> {
    const known = this.#made.get(name);
    if (known) return known as Promise<T>;
    const made = make();
    this.#made.set(name, made);
    return made;
  }

  /** Closes all resources, except those that failed to open. */
  async close(): Promise<void> {
    for (const made of this.#made.values()) {
      await made.then(
        (one) => one.close(),
        () => undefined,
      );
    }
    this.#made.clear();
  }
}
