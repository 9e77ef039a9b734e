/** What a key does. */
export interface Key {
  /** In a few words, for the help. */
  readonly does: string;
  readonly press: () => void;
}

const interrupt = '\u0003';

/**
 * Listens for single keys on the terminal; `h` and `?` show what they do.
 *
 * @param print shows a text
 * @returns what ends it and gives the terminal back as it was
 */
export function listenForKeys(keys: Readonly<Record<string, Key>>, print: (text: string) => void): { close(): void } {
  const { stdin } = process;
  const help = [...Object.entries(keys).map(([key, { does }]) => [key, does]), ['h', 'show the keys']]
    .map(([key, does]) => `  ${key!}  ${does!}\n`)
    .join('');
  const press = (data: Buffer): void => {
    for (const key of data.toString('utf8')) {
      // A terminal that hands over single keys hands over this one, too, in the place of the signal.
      if (key === interrupt) process.kill(process.pid, 'SIGINT');
      else if (key === 'h' || key === '?') print(`${help}\n`);
      else keys[key.toLowerCase()]?.press();
    }
  };
  stdin.setRawMode(true);
  stdin.resume().on('data', press);
  return {
    close() {
      stdin.off('data', press).pause();
      stdin.setRawMode(false);
    },
  };
}
