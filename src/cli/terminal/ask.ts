import { createInterface } from 'node:readline/promises';

/**
 * Asks a question on the terminal.
 *
 * @param fallback the answer when only the return key is pressed
 * @param signal aborted when the user interrupts the program
 * @returns undefined if there is no answer, because the program is interrupted or the input ends
 */
export async function ask(question: string, fallback: string, signal: AbortSignal): Promise<string | undefined> {
  const terminal = createInterface({ input: process.stdin, output: process.stdout });
  const ended = new AbortController();
  // On a terminal, the library reads the keys itself.
  terminal.on('SIGINT', () => process.kill(process.pid, 'SIGINT'));
  terminal.on('close', () => ended.abort());
  try {
    const answer = await terminal.question(question, { signal: AbortSignal.any([signal, ended.signal]) });
    return answer.trim() || fallback;
  } catch (error) {
    if (signal.aborted || ended.signal.aborted) return undefined;
    throw error;
  } finally {
    terminal.close();
  }
}
