import { mkdirSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { describe, expect, it } from 'vitest';
import { FileTable } from '#modules/core/files/file-table.js';
import { contentHash } from '#modules/core/files/hash.js';
import {
  planPublish,
  publish,
  remove,
  staleOf,
  type OutputRoot,
  type Published,
} from '#modules/core/outputs/publish.js';
import { OutputRecord } from '#modules/core/outputs/record.js';
import { TestProject } from './support/project.js';

type Texts = Readonly<Record<string, string>>;

/** The outputs of the pipeline `one` in a project, published without any pipeline. */
class Publishing {
  readonly project = new TestProject();
  readonly place: OutputRoot = this.#open(false);

  constructor(files: Texts = {}) {
    for (const [path, text] of Object.entries(files)) this.project.write(path, text);
  }

  #open(force: boolean): OutputRoot {
    const { root } = this.project;
    return { root, files: new FileTable(root), record: OutputRecord.open(root), force };
  }

  /** Plans outputs, and describes the operation for each as one word. */
  plan(texts: Texts, { force = false, all = texts } = {}): Record<string, string> {
    const plan = this.#plan(texts, force, all);
    const words: Record<string, string> = Object.fromEntries(plan.states);
    for (const { path } of plan.pending)
      words[path] = plan.replacing.some((one) => one.path === path) ? 'replace' : 'create';
    for (const one of plan.diagnostics) words[one.code] = one.severity;
    if (plan.obstacles.length > 0) words['obstacles'] = plan.obstacles.join();
    return words;
  }

  publish(texts: Texts, failing?: string): Published {
    return this.publishAll({ one: texts }, { failing })[0]!;
  }

  /** Publishes outputs of several pipelines, and returns the result of each. */
  publishAll(
    pipelines: Readonly<Record<string, Texts>>,
    { failing, isAtomic = false }: { failing?: string | undefined; isAtomic?: boolean },
  ): Published[] {
    const planned = Object.entries(pipelines).map(([pipeline, texts]) => ({
      pipeline,
      plan: this.#plan(texts, false, texts),
    }));
    const texts: Texts = Object.assign({}, ...Object.values(pipelines));
    return publish(planned, this.place, {
      isAtomic,
      inOrder: (outputs) => outputs.toReversed(),
      contentOf: ({ path }) => {
        if (path === failing) throw Object.assign(new Error('ENOSPC'), { code: 'ENOSPC' });
        return Buffer.from(texts[path]!);
      },
    });
  }

  #plan(texts: Texts, force: boolean, all: Texts): ReturnType<typeof planPublish<ReturnType<typeof outputsOf>[0]>> {
    const isStale = (path: string): boolean => this.place.record.outputs.has(path) && !Object.hasOwn(all, path);
    return planPublish(outputsOf(texts), { ...this.place, force }, isStale);
  }
}

const outputsOf = (texts: Texts): { path: string; hash: string }[] =>
  Object.entries(texts).map(([path, text]) => ({ path, hash: contentHash(Buffer.from(text)) }));

describe('the plan of publishing', () => {
  it('creates missing files, replaces the tool’s own, and leaves equal ones unchanged', () => {
    const publishing = new Publishing({ 'site/same.css': 'same' });
    publishing.publish({ 'site/a.css': 'one', 'site/b.css': 'one' });
    expect(
      publishing.plan({ 'site/a.css': 'two', 'site/b.css': 'one', 'site/c.css': 'new', 'site/same.css': 'same' }),
    ).toEqual({
      'site/a.css': 'replace',
      'site/b.css': 'unchanged',
      'site/c.css': 'create',
      'site/same.css': 'unchanged',
    });
    expect(publishing.project.read('site/a.css')).toBe('one');
  });

  it('rejects a file of the user, and preserves an edited output, unless forced', () => {
    const publishing = new Publishing({ 'site/own.css': 'mine' });
    publishing.publish({ 'site/a.css': 'one' });
    publishing.project.write('site/a.css', 'edited');
    const texts = { 'site/a.css': 'two', 'site/own.css': 'two' };
    expect(publishing.plan(texts)).toEqual({
      'site/a.css': 'preserved',
      'output-edited': 'warning',
      'output-foreign': 'error',
    });
    expect(publishing.plan(texts, { force: true })).toEqual({ 'site/a.css': 'create', 'site/own.css': 'create' });
    expect(publishing.publish(texts).states.size).toBe(0);
    expect([publishing.project.read('site/a.css'), publishing.project.read('site/own.css')]).toEqual([
      'edited',
      'mine',
    ]);
  });

  it('removes its stale outputs where a folder is needed, and folders of them where a file is', () => {
    const publishing = new Publishing();
    publishing.publish({ 'site/a': 'file', 'site/b/c': 'one', 'site/b/d': 'one' });
    const texts = { 'site/a/x': 'two', 'site/b': 'two' };
    expect(publishing.plan(texts)).toMatchObject({ 'site/a/x': 'create', 'site/b': 'create' });
    const { states, diagnostics } = publishing.publish(texts);
    expect([[...states.values()], diagnostics]).toEqual([['written', 'written'], []]);
    expect(publishing.project.files('site')).toEqual(['site/a/x', 'site/b']);
  });

  it('keeps a folder that contains anything else, and an output that is still current', () => {
    const publishing = new Publishing();
    publishing.publish({ 'site/a': 'file', 'site/b/c': 'one' });
    publishing.project.write('site/b/own', 'mine');
    expect(publishing.plan({ 'site/b': 'two' })).toEqual({ 'output-unwritable': 'error' });
    expect(publishing.plan({ 'site/a/x': 'two' }, { all: { 'site/a': 'file', 'site/a/x': 'two' } })).toEqual({
      'output-unwritable': 'error',
    });
  });

  it('never leads out of the project or into its reserved folders', () => {
    const publishing = new Publishing();
    const paths = ['../a.css', '.git/hooks/pre-commit', 'node_modules/x.js'];
    for (const path of paths) expect(publishing.plan({ [path]: 'x' }), path).toEqual({ 'output-unwritable': 'error' });
  });
});

describe('publishing', () => {
  it('writes all outputs or none, and leaves no temporary files', () => {
    const publishing = new Publishing();
    publishing.publish({ 'site/a.css': 'one', 'site/b.css': 'one' });
    const texts = { 'site/a.css': 'two', 'site/b.css': 'two', 'site/new/c.css': 'two' };
    const failed = publishing.publish(texts, 'site/new/c.css');
    expect([failed.states.size, failed.diagnostics.map(({ code }) => code)]).toEqual([0, ['output-unwritable']]);
    expect(publishing.project.files('site')).toEqual(['site/a.css', 'site/b.css']);
    expect(publishing.project.read('site/a.css')).toBe('one');
    expect([...publishing.publish(texts).states.values()]).toEqual(['written', 'written', 'written']);
  });

  it('publishes the other pipelines where one fails, or none if they belong together', () => {
    const publishing = new Publishing();
    const pipelines = { styles: { 'site/a.css': 'one' }, pages: { 'site/a.html': 'one' } };
    const states = (isAtomic: boolean): boolean[] =>
      publishing.publishAll(pipelines, { failing: 'site/a.css', isAtomic }).map(({ isPublished }) => isPublished);
    expect([states(true), publishing.project.exists('site')]).toEqual([[false, false], false]);
    expect([states(false), publishing.project.files('site')]).toEqual([[false, true], ['site/a.html']]);
  });

  it('finds stale outputs, and removes them with the folders that it created', () => {
    const publishing = new Publishing();
    mkdirSync(dirname(publishing.project.path('own/x')));
    publishing.publish({ 'site/deep/a': 'one', 'site/b': 'one', 'own/c': 'one', 'own/d': 'one' });
    publishing.project.write('own/d', 'edited');
    expect(staleOf('one', [{ path: 'site/b' }], publishing.place)).toEqual(['site/deep/a', 'own/c', 'own/d']);
    expect(staleOf('two', [], publishing.place)).toEqual([]);
    rmSync(publishing.project.path('own/c'));
    const { removed, diagnostics } = remove(['site/deep/a', 'own/c', 'own/d'], publishing.place);
    expect([removed, diagnostics.map(({ code }) => code)]).toEqual([['site/deep/a'], ['output-edited']]);
    expect(publishing.project.files()).toEqual(['own/d', 'site/b']);
    expect([publishing.project.exists('site/deep'), publishing.project.exists('own')]).toEqual([false, true]);
  });
});
