import { spawn } from 'node:child_process';
import { readFileSync, rmSync } from 'node:fs';
import { setTimeout as pause } from 'node:timers/promises';
import { Ajv } from 'ajv';
import { afterEach, describe, expect, it } from 'vitest';
import { program } from './support/program.js';
import { TestProject } from './support/project.js';
import { Serve } from './support/serve.js';

const schema = JSON.parse(
  readFileSync(new URL('standards/sarif-schema-2.1.0.json', import.meta.url), 'utf8'),
) as Record<string, unknown>;
// The schema uses an older draft, which only differs in the keyword of its identifier.
delete schema['id'];
delete schema['$schema'];
const isSarif = new Ajv({ strict: false, validateFormats: false, unicodeRegExp: false }).compile(schema);

const page = readFileSync(new URL('../docs/formats.md', import.meta.url), 'utf8');

/** The code block of the docs whose heading ends with a name. */
const block = (name: string): string => new RegExp(`^\`\`\`\\w+ ${name}\\n(.*?)^\`\`\``, 'ms').exec(page)![1]!;

function broken(): TestProject {
  return new TestProject({
    'anvil.yaml': `pipelines:
  styles: { from: "styles/**/*.scss", steps: [compile], to: site }
  more: { from: [more/*.css, gone.css], steps: [minify], to: more-site }
`,
    'styles/ü b.scss': '@warn "mind";\na { color: $b }\n',
    'more/a.css': 'a { color: teal; width 3px }\n',
  });
}

interface Log {
  readonly runs: readonly [
    {
      readonly tool: {
        readonly driver: { readonly rules: readonly { readonly id: string; readonly help: { text: string } }[] };
      };
      readonly invocations: readonly object[];
      readonly results: readonly {
        readonly ruleId: string;
        readonly ruleIndex: number;
        readonly level: string;
        readonly message: { readonly text: string };
        readonly locations?: readonly { readonly physicalLocation: Record<string, unknown> }[];
      }[];
    },
  ];
}

async function log(project: TestProject, ...args: string[]): Promise<Log['runs'][0]> {
  const { stdout, stderr } = await project.run([...args, '--format', 'sarif']);
  expect(stderr).toBe('');
  const value = JSON.parse(stdout) as Log;
  expect(isSarif(value), JSON.stringify(isSarif.errors)).toBe(true);
  return value.runs[0];
}

describe('--format sarif', () => {
  it('is a valid log with a rule per code and exact ranges', async () => {
    const { tool, results, invocations } = await log(broken(), 'build');
    expect(invocations).toEqual([{ executionSuccessful: false, exitCode: 1 }]);
    expect(results.map(({ ruleId, level }) => `${level} ${ruleId}`).sort()).toEqual([
      'error sass',
      'warning glob-empty',
      'warning sass-warning',
      'warning style-skipped',
    ]);
    for (const { ruleId, ruleIndex } of results) expect(tool.driver.rules[ruleIndex]!.id).toBe(ruleId);
    for (const { help } of tool.driver.rules) expect(help.text).toMatch(/\.$/);
    expect(results.find(({ ruleId }) => ruleId === 'sass')!.locations![0]!.physicalLocation).toEqual({
      artifactLocation: { uri: 'styles/%C3%BC%20b.scss', uriBaseId: 'PROJECT' },
      region: { startLine: 2, startColumn: 12, endLine: 2, endColumn: 14 },
      contextRegion: { startLine: 1, endLine: 3, snippet: { text: '@warn "mind";\na { color: $b }\n\n' } },
    });
  });

  it('is a valid log without results, and for an invalid project file', async () => {
    const project = new TestProject({ 'a.css': 'a{}', 'anvil.yaml': 'pipelines: { a: { from: a.css, to: site } }\n' });
    const good = await log(project, 'build');
    expect([good.results, good.invocations]).toEqual([[], [{ executionSuccessful: true, exitCode: 0 }]]);
    expect((await log(project, 'list')).results).toEqual([]);
    project.write('anvil.yaml', 'pipelines: { a: { form: a.css, to: site } }\n');
    const wrong = await log(project, 'build');
    expect([wrong.invocations, wrong.results.map(({ ruleId }) => ruleId)]).toEqual([
      [{ executionSuccessful: false, exitCode: 2 }],
      ['unknown-key'],
    ]);
    expect((await log(project, 'watch')).results[0]!.message.text).toContain('a session does not end by itself');
  });
});

describe('--format lines', () => {
  let serve: Serve | undefined;
  afterEach(async () => {
    await serve?.end();
    serve = undefined;
  });

  it('matches the problem matchers of the docs', async () => {
    const project = broken();
    project.write(
      'find.mjs',
      "console.log('more/a.css:1:2: warning: Too many stars. [stars/@fern/max]'); process.exitCode = 1;\n",
    );
    project.write(
      'anvil.yaml',
      `${project.read('anvil.yaml')}  checks: { steps: [{ check: { run: node find.mjs, reads: find.mjs } }] }\n`,
    );
    const { stderr } = await project.run(['build', '--format', 'lines']);
    const { pattern } = JSON.parse(block('matcher.json')) as {
      pattern: Record<'file' | 'line' | 'column' | 'severity' | 'message' | 'code', number> & { regexp: string };
    };
    const bare = new RegExp(block('pattern.txt').trim());
    const read = stderr
      .trim()
      .split('\n')
      .map((line) => {
        const found = new RegExp(pattern.regexp).exec(line)!;
        const { file, line: at, column, severity, message, code } = bare.exec(line)!.groups!;
        expect([file, at, column, severity, message, code]).toEqual(
          (['file', 'line', 'column', 'severity', 'message', 'code'] as const).map((part) => found[pattern[part]]),
        );
        return `${file!}:${at!}:${column!} ${severity!} ${code!}`;
      });
    expect(read.sort()).toEqual([
      'anvil.yaml:3:30 warning glob-empty',
      'more/a.css:1:18 warning style-skipped',
      'more/a.css:1:2 warning find/stars/@fern/max',
      'styles/ü b.scss:1:1 warning sass-warning',
      'styles/ü b.scss:2:12 error sass',
    ]);
  });

  it('reports the begin and end of rounds for the session matcher', async () => {
    const { background } = JSON.parse(block('matcher.json')) as {
      background: { beginsPattern: string; endsPattern: string };
    };
    const project = broken();
    const child = spawn(process.execPath, [program, 'watch', '--format', 'lines'], { cwd: project.root });
    const lines: string[] = [];
    child.stdout.setEncoding('utf8').on('data', (text: string) => lines.push(...text.trim().split('\n')));
    while (!lines.includes('waiting')) await pause(20);
    child.kill();
    expect(new RegExp(background.beginsPattern).test(lines[0]!)).toBe(true);
    expect(new RegExp(background.endsPattern).test(lines.at(-1)!)).toBe(true);
  });
});

/** A project with something for every command to say. */
const telling = (): TestProject =>
  new TestProject({
    'anvil.yaml':
      'browsers: safari 15\npipelines:\n  site: { from: "src/*.{scss,css}", steps: [compile, prefix, join: all.css], to: out }\n  copy: { from: out/*.css, to: copy }\n',
    'src/a.scss': '@use "t";\na { color: t.$ink }\n',
    'src/b.css': 'b { user-select: none }\n',
    'src/_t.scss': '$ink: teal;\n',
  });

type SomeEvent = Record<string, unknown> & { readonly event: string };

/** The fields of events, by the page on formats. */
const documented = new Map(
  [...page.matchAll(/^\| `([\w-]+)` \| (.*) \|$/gm)].map(([, event, fields]) => [
    event!,
    new Set([...fields!.matchAll(/`([\w-]+)`/g)].map(([, field]) => field!)),
  ]),
);

/** Checks that an event has only documented fields; returns its name. */
function documentedEvent({ version, event, ...fields }: SomeEvent): string {
  expect(version).toBe(1);
  // Some have the fields of another event.
  const names = new Set([...documented.get(event)!].flatMap((name) => [name, ...(documented.get(name) ?? [])]));
  for (const name of namesIn(fields)) expect(names, `${event} has ${name}`).toContain(name);
  return event;
}

/** Commands in the order of a working day, each with the edits before it. */
const day: readonly (readonly [args: string, change?: readonly [path: string, content: string]])[] = [
  ['build'],
  ['build --dry-run', ['src/b.css', 'b { color: red }\n']],
  ['list'],
  ['list --browsers'],
  ['why out/all.css', ['src/t.scss', '$ink: navy;\n']],
  ['why src/_t.scss'],
  ['build --dry-run', ['anvil.yaml', 'pipelines: { site: { from: [src/b.css, gone.css], to: out } }\n']],
  ['build'],
  ['clean'],
];

describe('every command', () => {
  it('prints lines for cut and other tools, and nothing with --quiet', async () => {
    const project = telling();
    const said = new Map<string, string[]>();
    for (const [args, change] of day) {
      if (change) project.write(...change);
      const { stdout } = await project.run([...args.split(' '), '--format', 'lines']);
      said.set(said.has(args) ? `${args} again` : args, stdout.trimEnd().split('\n'));
    }
    expect(said.get('list --browsers')!).toContain('property\tuser-select\t-webkit-user-select\tsafari 15');
    said.delete('list --browsers');
    expect(Object.fromEntries(said)).toEqual({
      build: ['written\tout/all.css', 'written\tcopy/all.css'],
      'build --dry-run': ['site\trun\tcompile\tb.css', 'site\tmay write\tout/all.css', 'copy\tmay write\tcopy/all.css'],
      list: [
        'site\tsource\tsrc/a.scss',
        'site\tsource\tsrc/b.css',
        'site\toutput\tout/all.css',
        'copy\tsource\tout/all.css',
        'copy\toutput\tcopy/all.css',
      ],
      'why out/all.css': ['src/a.scss', 'src/b.css', 'src/_t.scss'],
      'why src/_t.scss': ['out/all.css', 'copy/all.css'],
      'build --dry-run again': ['site\twrite\tout/b.css', 'site\tremove\tout/all.css', 'copy\tremove\tcopy/all.css'],
      'build again': ['written\tout/b.css', 'removed\tout/all.css', 'removed\tcopy/all.css'],
      clean: ['removed\tout/b.css'],
    });
    project.write('anvil.yaml', 'pipelines: { site: { from: src/b.css, to: out } }\n');
    expect((await project.run(['build', '--format', 'lines', '--quiet'])).stdout).toBe('');
    expect(project.files('out')).toEqual(['out/b.css']);
  });

  it('prints JSON events with exactly the documented fields', async () => {
    const project = telling();
    const seen = new Set<string>();
    const task = ['anvil.yaml', 'pipelines: { task: { steps: [run: echo ready] } }\n'] as const;
    for (const [args, change] of [...day, ['build', task] as const, ['init'] as const]) {
      if (change) project.write(...change);
      if (args === 'init') rmSync(project.path('anvil.yaml'));
      const { stdout } = await project.run([...args.split(' '), '--format', 'json']);
      for (const line of stdout.trimEnd().split('\n')) {
        seen.add(documentedEvent(JSON.parse(line) as SomeEvent));
      }
    }
    expect([...seen].sort()).toEqual(
      'browsers build-done build-started cleaned command-output created diagnostic feature forecast job-done job-ran pipeline pipeline-done pipeline-started plan why-output why-source'.split(
        ' ',
      ),
    );
  });

  it('prints one valid log with --format sarif, also for commands without diagnostics', async () => {
    const project = telling();
    for (const [args, change] of day) {
      if (change) project.write(...change);
      const { results, invocations } = await log(project, ...args.split(' '));
      expect(invocations).toEqual([{ executionSuccessful: true, exitCode: 0 }]);
      const isGone = project.read('anvil.yaml').includes('gone.css') && args.startsWith('build');
      expect(results.map(({ ruleId }) => ruleId)).toEqual(isGone ? ['glob-empty'] : []);
    }
  });
});

/** The field names of an object, and of objects in its lists; the content of `options` and `settings` is the user's. */
function namesIn(value: Record<string, unknown>): string[] {
  return Object.entries(value).flatMap(([name, inner]) => {
    const each = name === 'options' || name === 'settings' ? [] : Array.isArray(inner) ? inner : [inner];
    const objects = each.filter((one): one is Record<string, unknown> => typeof one === 'object' && one !== null);
    return [name, ...objects.flatMap(namesIn)];
  });
}

describe('--format json', () => {
  it('prints JSON events of sessions with exactly the documented fields', async () => {
    const yaml =
      'pipelines:\n  site: { from: "src/*.{html,scss}", to: out, steps: [compile] }\n  checks: { steps: [{ check: { run: node slow.mjs, reads: src/* } }] }\nserve: { folder: out }\n';
    const project = new TestProject({
      'anvil.yaml': yaml,
      'src/index.html': '<p>',
      'src/a.scss': 'a { order: 1 }\n',
      'slow.mjs': 'setTimeout(() => {}, 400);\n',
    });
    const serve = await Serve.open(project);
    const visit = await fetch(`${serve.url}.loyal-anvil/events?page=/`);
    const edits: readonly (readonly [path: string, text: string, event: string])[] = [
      ['src/index.html', '<p>2', 'pages-updated'],
      ['src/a.scss', 'a { order: $none }\n', 'diagnostic'],
      ['src/a.scss', 'a { order: 2 }\n', 'recovered'],
      ['anvil.yaml', 'pipelines: []\n', 'config-error'],
      ['anvil.yaml', yaml, 'recovered'],
    ];
    for (const [path, text, event] of edits) {
      const [before, waits] = [serve.count(event), serve.count('waiting')];
      project.write(path, text);
      await serve.until(() => serve.count(event) > before && serve.count('waiting') > waits);
    }
    await serve.end();
    await visit.body?.cancel().catch(() => undefined);
    expect([...new Set(serve.events.map(documentedEvent))].sort()).toEqual(
      'build-done build-started changed config-error diagnostic job-done job-ran page-opened pages-updated pipeline-done pipeline-started published recovered serving session-started waiting'.split(
        ' ',
      ),
    );
  });

  it('counts lines and columns from 1, columns in UTF-16 code units', async () => {
    const project = new TestProject({
      'anvil.yaml': 'pipelines: { one: { from: a.css, to: site, steps: [minify] } }\n',
      'a.css': '/* 🔭 */ a { order 1 }\n',
    });
    const events = (await project.events(['build'])).filter(({ event }) => event === 'diagnostic');
    expect(events).toMatchObject([{ range: { start: { line: 1, column: 14 } } }]);
    expect((await project.diagnose()).said).toEqual(['a.css:1:14: warning [style-skipped]']);
  });
});
