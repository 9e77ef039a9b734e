import { existsSync } from 'node:fs';
import { delimiter, join } from 'node:path';
import { chromium, type Browser } from 'playwright-core';

/** Opens the browser that the machine has: the one that `CHROMIUM` names, or one on the path. */
export async function openBrowser(): Promise<Browser> {
  const { CHROMIUM, PATH = '' } = process.env;
  const executablePath =
    CHROMIUM ??
    PATH.split(delimiter)
      .map((folder) => join(folder, 'chromium'))
      .find(existsSync);
  return chromium.launch({
    ...(executablePath !== undefined && { executablePath }),
    args: ['--no-sandbox', '--disable-gpu'],
  });
}
