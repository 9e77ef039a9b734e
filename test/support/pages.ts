import { setTimeout as pause } from 'node:timers/promises';
import type { Browser, BrowserContext, Page } from 'playwright-core';
import { afterAll, afterEach, beforeAll } from 'vitest';
import { openBrowser } from './browser.js';
import type { TestProject } from './project.js';
import { Serve } from './serve.js';

/** A browser for the tests of one file, and for each test a server and its open pages. */
export class Pages {
  #browser!: Browser;
  #context: BrowserContext | undefined;
  #serve: Serve | undefined;

  constructor() {
    beforeAll(async () => {
      this.#browser = await openBrowser();
    });
    afterAll(() => this.#browser.close());
    afterEach(async () => {
      // A browser that receives a request while loading a page sometimes never responds; the next test gets a new one.
      await Promise.race([this.#context?.close(), pause(10_000)]);
      this.#context = undefined;
      await this.#serve?.end();
      this.#serve = undefined;
    });
  }

  get serve(): Serve {
    return this.#serve!;
  }

  /** Serves a project; any other server of the same test must have ended. */
  async open(project: TestProject, args?: readonly string[]): Promise<Serve> {
    this.#serve = undefined;
    this.#serve = await Serve.open(project, args);
    this.#context ??= await this.#browser.newContext();
    return this.#serve;
  }

  /** Opens a page, and waits until it is connected to the reload channel. */
  async visit(path = '', url = this.serve.url + path): Promise<Page> {
    const page = await this.#context!.newPage();
    const connected = page.waitForResponse((response) => response.url().includes('/.loyal-anvil/events'));
    await page.goto(url);
    await connected;
    return page;
  }
}
