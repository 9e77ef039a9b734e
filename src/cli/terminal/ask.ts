import { createInterface } from 'node:readline/promises';

/**
 * Asks a question on the terminal.
 *
 * @param fallback the answer when only the return key is pressed
 */
export async function ask(question: string, fallback: string): Promise<string> {
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  try {
    return (await terminal.question(question)).trim() || fallback;
  } finally {
    terminal.close();
  }
}
