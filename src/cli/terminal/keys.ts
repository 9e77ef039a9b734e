/** A key and its action. */
export interface Key {
  /** For the help. */
  readonly description: string;
  readonly press: () => void;
}

/** What a terminal sends in raw mode in place of signals: Ctrl+C, Ctrl+\ and Ctrl+Z. */
const signals: Readonly<Record<string, NodeJS.Signals>> = {
  '\u0003': 'SIGINT',
  '\u001c': 'SIGQUIT',
  '\u001a': 'SIGTSTP',
};

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
  let isClosed = false;
  const press = (data: Buffer): void => {
    for (const key of data.toString('utf8')) {
      const signal = signals[key];
      if (signal === 'SIGTSTP') suspend();
      else if (signal) process.kill(process.pid, signal);
      else if (key === 'h' || key === '?') print(`${help}\n`);
      else keys[key.toLowerCase()]?.press();
    }
  };
  /** Suspends the process group, as the terminal does for Ctrl+Z outside raw mode. */
  const suspend = (): void => {
    if (process.platform === 'win32') return;
    stdin.setRawMode(false);
    process.kill(0, 'SIGTSTP');
    // The timer fires after the shell has continued the process.
    setTimeout(() => {
      if (!isClosed) stdin.setRawMode(true);
    }, 100);
  };
  stdin.setRawMode(true);
  stdin.resume().on('data', press);
  return {
    close() {
      isClosed = true;
      stdin.off('data', press).pause();
      stdin.setRawMode(false);
    },
  };
}
