import { request, type IncomingHttpHeaders } from 'node:http';
import type { TestProject } from './project.js';
import { Watch } from './watch.js';

/** A response of the server. */
export interface Answer {
  readonly status: number;
  readonly headers: IncomingHttpHeaders;
  readonly body: Buffer;
}

/** The program serving a project, until `end`. */
export class Serve extends Watch {
  /** Starts serving on any free port and waits until the first build is done. */
  static async open(
    project: TestProject,
    args: readonly string[] = ['--port', '0'],
    env: NodeJS.ProcessEnv = {},
  ): Promise<Serve> {
    const serve = new Serve(project, args, [], 'serve', env);
    await serve.until(() => serve.count('waiting') > 0);
    return serve;
  }

  /** The URL of the server, ending in `/`. */
  get url(): string {
    return (this.last('serving')!['urls'] as string[])[0]!;
  }

  get port(): number {
    return Number(new URL(this.url).port);
  }

  /**
   * Sends a request whose path goes out as it is written, which `fetch` would tidy up.
   *
   * @param headers none of them is added, but for `Host`
   */
  ask(path: string, headers: Readonly<Record<string, string>> = {}, method = 'GET'): Promise<Answer> {
    return new Promise((done, failed) => {
      const options = { host: '127.0.0.1', port: this.port, path, method, headers, agent: false };
      request(options, (response) => {
        const chunks: Buffer[] = [];
        response.on('data', (chunk: Buffer) => chunks.push(chunk)).on('error', failed);
        response.on('end', () =>
          done({ status: response.statusCode!, headers: response.headers, body: Buffer.concat(chunks) }),
        );
      })
        .on('error', failed)
        .end();
    });
  }

  /** The text of a page as a browser asks for it. */
  async page(path: string, headers: Readonly<Record<string, string>> = {}): Promise<string> {
    const { body } = await this.ask(path, { accept: 'text/html', 'sec-fetch-dest': 'document', ...headers });
    return body.toString('utf8');
  }
}
