import { posix } from 'node:path';
import { diagnostic, DiagnosticError } from '../core/diagnostics/index.js';
import type { BuildReport } from '../core/build/report.js';
import type { ServeConfig } from '../core/config/project-config.js';
import type { SessionEvent } from '../core/watch/session-event.js';
import { Session, type SessionOptions } from '../core/watch/session.js';
import { freePort, urlsOf } from './address.js';
import type { App } from './app.js';
import { browserName } from './browser-name.js';
import { Channel } from './channel.js';
import type { ServerEvent } from './event.js';
import { fileKindOf } from './kind.js';
import type { Change, Update } from './message.js';
import { Problems } from './problems.js';
import { urlOf } from './lookup.js';
import { ServedFiles } from './served.js';
import { ServedNames } from './served-names.js';

/** Options of a server; host and port override those of the project file. */
export interface ServeOptions extends Omit<SessionOptions, 'listen'> {
  readonly host?: string | undefined;
  /** 0 for any free port. */
  readonly port?: number | undefined;
  readonly listen?: ((event: ServerEvent) => void) | undefined;
}

/** The time in which reopening a page is not reported again, in milliseconds. */
const pageReportInterval = 10 * 60_000;

/** A session with an HTTP server: pages show the last build, and follow every rebuild. */
export class SiteServer {
  readonly #channel = new Channel();
  readonly #problems = new Problems();
  /** The time of the last request of each page, by browser and path. */
  readonly #seen = new Map<string, number>();
  #session!: Session;
  #serving!: ServeConfig;
  #served!: ServedFiles;
  #names!: ServedNames;
  #app!: App;
  #urls: readonly string[] = [];
  /** The problems that were last sent to pages, as text. */
  #lastProblems = '[]';

  private constructor(private readonly options: ServeOptions) {}

  /**
   * Opens a session and listens; `run` starts building.
   *
   * @throws DiagnosticError with all errors of the project file, or if no port is available
   */
  static async open(options: ServeOptions = {}): Promise<SiteServer> {
    const server = new SiteServer(options);
    server.#session = await Session.open({ ...options, listen: (event) => server.#handle(event) });
    try {
      await server.#listen();
    } catch (error) {
      server.#channel.close();
      await server.#session.dispose();
      throw error;
    }
    return server;
  }

  /** The URLs of the server; the first one is for this machine. */
  get urls(): readonly string[] {
    return this.#urls;
  }

  /** The underlying session. */
  get session(): Session {
    return this.#session;
  }

  /**
   * Builds and serves until `close` is called or the project folder is removed.
   *
   * @returns whether it was closed
   * @throws DiagnosticError if the project is invalid at the start
   */
  async run(): Promise<boolean> {
    try {
      return await this.#session.run();
    } finally {
      this.#channel.close();
      await this.#app.close();
    }
  }

  /** Shuts down the server and the session. */
  close(): void {
    this.#session.close();
  }

  async #listen(): Promise<void> {
    const serving = await this.#session.serving();
    if (!serving) throw new DiagnosticError(diagnostic('serve-missing', {}));
    const host = this.options.host ?? serving.host;
    const wanted = this.options.port ?? serving.port;
    const port = await freePort(host, wanted);
    this.#serving = serving;
    this.#names = new ServedNames(this.#session);
    this.#names.update(this.#session.names);
    this.#served = new ServedFiles(serving.folder, this.#names);
    const { App: Made } = await import('./app.js');
    this.#app = await Made.open({
      rules: { host, hosts: serving.hosts },
      folder: () => ({
        root: this.#session.root,
        folder: this.#serving.folder,
        fallback: this.#serving.fallback,
        isOutput: (path) => this.#session.hashOf(this.#inProject(path)) !== undefined,
        isHashed: (path) => this.#names.isHashed(this.#inProject(path)),
        currentPath: (path) => {
          const current = this.#names.currentPath(this.#inProject(path));
          return current === undefined ? undefined : posix.relative(this.#serving.folder, current);
        },
      }),
      proxy: serving.proxy,
      channel: this.#channel,
      state: () => this.#served.state,
      first: (state) => this.#first(state),
      opened: (page, userAgent) => this.#opened(page, browserName(userAgent)),
    });
    await this.#app.http.listen({ host, port });
    this.#urls = urlsOf(host, port);
    const portInUse = wanted !== 0 && wanted !== port ? { portInUse: wanted } : {};
    this.#tell({ event: 'serving', folder: serving.folder, urls: this.#urls, ...portInUse });
  }

  #inProject(path: string): string {
    return posix.join(this.#serving.folder, path);
  }

  #tell(event: ServerEvent): void {
    this.options.listen?.(event);
  }

  /** Pages are updated before the event is forwarded: the outputs of the rebuild are in place. */
  #handle(event: SessionEvent): void {
    this.#problems.take(event);
    if (event.event === 'published' || event.event === 'build-done') this.#updatePages(event.report);
    this.#tell(event);
    if (event.event === 'config-error') this.#updatePages();
    if (event.event === 'waiting') void this.#reloadSettings();
  }

  /** Sends one message per rebuild: changed files and problems; none if neither has changed. */
  #updatePages(report?: BuildReport): void {
    this.#names.update(this.#session.names);
    const candidates = this.#names.hasNames ? this.#names.outputs : outputsOf(report);
    const changed = this.#served.take(candidates, this.#names).filter(isShown);
    const problems = this.#problems.list();
    const text = JSON.stringify(problems);
    if (changed.length === 0 && text === this.#lastProblems) return;
    this.#lastProblems = text;
    const pages = this.#channel.broadcast({ state: this.#served.state, changed: this.#changes(changed), problems });
    if (pages > 0) this.#tell({ event: 'pages-updated', pages, changed, problems: problems.length });
  }

  /** The first message to a page, for its known state. */
  #first(state: string | undefined): Update {
    const missed = this.#served.since(state ?? this.#served.state);
    return {
      state: this.#served.state,
      changed: missed ? this.#changes(missed) : null,
      problems: this.#problems.list(),
    };
  }

  #changes(urls: readonly string[]): Change[] {
    return urls.filter(isShown).flatMap((url) => {
      const output = this.#inProject(decodeURIComponent(url.slice(1)));
      const known = this.#names.namesOf(output).map((name) => urlOf(posix.relative(this.#serving.folder, name)));
      return known.map((one) => this.#app.withRequesters({ url: one, kind: fileKindOf(url) }));
    });
  }

  #opened(page: string, browser: string): void {
    const key = `${browser} ${page}`;
    const before = this.#seen.get(key) ?? -Infinity;
    this.#seen.set(key, performance.now());
    if (performance.now() - before > pageReportInterval) this.#tell({ event: 'page-opened', page, browser });
  }

  /** Applies changed settings of the project file; host, port and proxies take effect after a restart. */
  async #reloadSettings(): Promise<void> {
    const serving = await this.#session.serving();
    if (!serving || JSON.stringify(serving) === JSON.stringify(this.#serving)) return;
    const before = this.#serving;
    this.#serving = serving;
    if (serving.folder !== before.folder) this.#served = new ServedFiles(serving.folder, this.#names);
    if (startSettings(serving) !== startSettings(before))
      this.#tell({ event: 'diagnostic', diagnostic: diagnostic('serve-later', {}) });
  }
}

/** Source maps are loaded by developer tools, not by pages. */
const isShown = (url: string): boolean => !/\.(map|gz|br)$/.test(url);

/** The settings that take effect at the start of a server. */
function startSettings({ host, port, hosts, proxy }: ServeConfig): string {
  return JSON.stringify([host, port, hosts, proxy]);
}

/** The outputs that a build may have changed. */
function* outputsOf(report: BuildReport | undefined): Iterable<string> {
  if (!report) return;
  yield* report.removed;
  for (const { outputs, removed } of report.pipelines) {
    for (const { path, state } of outputs) if (state === 'written') yield path;
    yield* removed;
  }
}
