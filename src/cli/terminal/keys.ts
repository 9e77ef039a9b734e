/** A key and its action. */
export interface Key {
  /** For the help. */
  readonly description: string;
  readonly press: () => void;
}

const interrupt = '\u0003';

/**
 * Listens for single keys on the terminal; `h` and `?` show help.
 *
 * @param print shows a text
 * @returns a handle that restores the terminal
 */
export function listenForKeys(keys: Readonly<Record<string, Key>>, print: (text: string) => void): { close(): void } {
  const { stdin } = process;
  const help = [...Object.entries(keys).map(([key, { description }]) => [key, description]), ['h', 'show this help']]
    .map(([key, description]) => `  ${key!}  ${description!}\n`)
    .join('');
  const press = (data: Buffer): void => {
    for (const key of data.toString('utf8')) {
      // In raw mode, the terminal sends this key instead of a signal.
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
