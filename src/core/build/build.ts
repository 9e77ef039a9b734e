import { diagnostic, hasErrors, type Diagnostic, type Place } from '../diagnostics/index.js';
import { isNamed } from '../plan/naming.js';
import { orphanedOutputs } from '../outputs/orphaned-outputs.js';
import { remove, saveRecord, staleOf } from '../outputs/publish.js';
import { claimIndexOf, type ClaimIndex } from '../plan/claims.js';
import { expectedJobs, isAdvisory, type PlannedPipeline } from '../plan/pipeline.js';
import { isFormerOutput, isKept, type Plan } from '../plan/plan.js';
import type { BuildRequest } from './build-request.js';
import { Gate } from './gate.js';
import type { EmittedOutputs, OutputFile, PipelineMemo } from './memo.js';
import { OutputNaming, type EvaluatedPipeline } from './output-naming.js';
import { OutputOwners } from './output-owners.js';
import { PipelineBuild, type BuildScope, type PipelineOutcome } from './pipeline-build.js';
import { publishOrder, targetsOf } from './publish-order.js';
import { exceededLimits, measureLimits } from './limits.js';
import { limitedOutputs } from './limited-outputs.js';
import { Publisher, type PublishRequest } from './publisher.js';
import { readTest, type PathTest } from './read-test.js';
import { reportsOf, type BuildReport, type PipelineReport, type PipelineState } from './report.js';
import { Schedule } from './schedule.js';
import { unlistedWrites } from './unlisted-writes.js';

/** The maximum number of attempts when a source changes while it is copied. */
const maxAttempts = 5;

/** Runs pipelines, those that do not wait for each other at the same time, and publishes their outputs. */
export async function build(plan: Plan, request: BuildRequest): Promise<BuildReport & { readonly isNew: boolean }> {
  const run = new Build(plan, request);
  return { ...(await run.result()), isNew: run.isNew };
}

/** Steps that run code of the project, which may write files that nobody has announced. */
const writingSteps: ReadonlySet<string> = new Set(['run', 'apply']);

/** One build of a plan. */
class Build implements BuildScope {
  /** The outcome of each pipeline. */
  readonly outcomes = new Map<string, Promise<PipelineOutcome>>();
  /** For each pipeline, a gate that opens when its assets are known. */
  readonly evaluations = new Map<string, Gate>();
  /** For each pipeline, a gate that opens when its outputs are in the registry, or when it waits for others. */
  readonly registrations = new Map<string, Gate>();
  readonly schedule: Schedule;
  claims: ClaimIndex;
  /** The outputs of this build by path, with the pipelines that write them. */
  readonly registry = new Map<string, string>();
  /** True if anything was found out that was not remembered. */
  isNew = false;
  readonly #builds = new Map<string, PipelineBuild>();
  readonly #publisher: Publisher;
  /** The number of times that a source has changed while it was copied. */
  #changedSources = 0;
  readonly #started = performance.now();
  readonly began = performance.timeOrigin + this.#started;
  readonly #diagnostics: Diagnostic[] = [];
  /** Orphaned outputs that were removed before the end because a pipeline read them. */
  readonly #removedEarly: string[] = [];
  /** Orphaned outputs that could not be removed before the end, which was reported. */
  readonly #preserved = new Set<string>();

  /** The pipelines that read what a command does not say that it writes. */
  readonly #unlisted = new Set<string>();
  /** Plans that were made after pipelines whose code may have written files, by the names of these. */
  readonly #renewals = new Map<string, Promise<Plan>>();

  constructor(
    public plan: Plan,
    readonly request: BuildRequest,
  ) {
    const { pipelines, outputRoot, executor, published } = request;
    this.claims = claimIndexOf(plan.pipelines);
    executor.inputs.plan = { claims: this.claims, constants: plan.profile.constants };
    this.schedule = new Schedule(pipelines, new OutputOwners(plan, outputRoot.record));
    this.#publisher = new Publisher(executor, outputRoot, published);
  }

  async result(): Promise<BuildReport> {
    const { tell, pipelines, memos, siteCheck } = this.request;
    const { name: profile } = this.plan.profile;
    const names = pipelines.map((pipeline) => pipeline.name);
    tell({ event: 'build-started', profile, pipelines: names, jobs: pipelines.map(expectedJobs) });
    for (const one of [...this.request.diagnostics, ...this.plan.diagnostics])
      if (!this.#isEarly(one)) this.report(one);
    siteCheck.site.setPlan(this.plan, memos);
    // The writers of files that it read last time run first; if that closes a cycle, the traces are out of date.
    for (const { name } of pipelines)
      for (const writer of this.schedule.readDependencies(name, memos.get(name)).keys())
        this.schedule.wait(name, writer);
    this.#start(pipelines);
    const isLater = this.#laterTest(pipelines);
    const first = pipelines.filter((one) => !isLater(one));
    await Promise.all(first.map(({ name }) => this.outcomes.get(name)!));
    const builds = first.map(({ name }) => this.#builds.get(name)!);
    this.#hold(builds);
    if (this.request.needsGzip) await this.#checkLimits(builds);
    await this.#publish(builds.filter(({ isBuilt }) => isBuilt));
    const isUpdated = builds.every((one) => this.#isUpdated(one)) && (this.#isWhole || !isNamed(this.plan));
    const removed = isUpdated ? this.#removeUnused(builds) : [...this.#removedEarly];
    const reports = new Map<string, PipelineReport>();
    const addReports = async (ended: readonly PlannedPipeline[]): Promise<void> => {
      const made = await Promise.all(ended.map((pipeline) => this.#reportPipeline(pipeline)));
      for (const one of made) reports.set(one.name, one);
    };
    await addReports(first);
    if (first.length < pipelines.length) {
      tell({ event: 'published', report: this.#report([...reports.values()], removed) });
      await Promise.all(this.outcomes.values());
      await addReports(pipelines.filter(isLater));
    }
    const all = pipelines.map(({ name }) => reports.get(name)!);
    const report = this.#report(all, removed);
    tell({ event: 'build-done', report });
    return report;
  }

  #report(reports: readonly PipelineReport[], removed: readonly string[]): BuildReport {
    const steps = reports.flatMap((one) => one.steps);
    return {
      profile: this.plan.profile.name,
      pipelines: reports,
      jobs: { run: sum(steps.map((step) => step.run)), reused: sum(steps.map((step) => step.reused)) },
      removed,
      diagnostics: [...this.#diagnostics],
      milliseconds: performance.now() - this.#started,
      done: reports.every((one) => one.state === 'built') && !hasErrors(this.#diagnostics),
    };
  }

  /** Reports whether a glob may match files that code of the project writes first. */
  #isEarly({ code, pipeline }: Diagnostic): boolean {
    return code === 'glob-empty' && pipeline !== undefined && this.#codeBefore(pipeline).length > 0;
  }

  /** The pipelines before another that run code of the project, which may write sources and data. */
  #codeBefore(name: string): string[] {
    const found = new Set<string>();
    const add = (one: string): void => {
      for (const { on } of this.plan.pipelines.find((pipeline) => pipeline.name === one)?.dependsOn ?? []) {
        if (found.has(on)) continue;
        found.add(on);
        add(on);
      }
    };
    add(name);
    return [...found].filter((one) =>
      this.plan.pipelines.some(
        (pipeline) =>
          pipeline.name === one && pipeline.steps.some(({ definition }) => writingSteps.has(definition.name)),
      ),
    );
  }

  async renewed(name: string): Promise<PlannedPipeline | undefined> {
    const before = this.#codeBefore(name);
    if (before.length === 0) return undefined;
    const outcomes = await Promise.all(before.flatMap((one) => this.outcomes.get(one) ?? []));
    const hasRun = outcomes.some((one) => one.steps.some(({ run }) => run > 0));
    const key = before.sort().join('\0');
    if (hasRun && !this.#renewals.has(key)) this.#renewals.set(key, this.#renew());
    const plan = (await this.#renewals.get(key)) ?? this.plan;
    const empty = plan.diagnostics.filter((one) => one.code === 'glob-empty' && one.pipeline === name);
    // It is asked again if the pipeline turns out to wait for others.
    for (const one of empty) if (!this.#diagnostics.includes(one)) this.report(one);
    return plan.pipelines.find((pipeline) => pipeline.name === name);
  }

  async #renew(): Promise<Plan> {
    const before = this.plan;
    const { plan, changed } = await this.request.replan();
    const codeBefore = (name: string): readonly string[] => this.#codeBefore(name);
    for (const one of unlistedWrites({ before, plan, changed, codeBefore, reported: this.#unlisted, ...this.request }))
      this.report(diagnostic('command-writes-unlisted', one));
    if (plan === this.plan) return plan;
    this.plan = plan;
    this.claims = claimIndexOf(plan.pipelines);
    this.request.executor.inputs.plan = { claims: this.claims, constants: plan.profile.constants };
    this.request.siteCheck.site.setPlan(plan, this.request.memos);
    this.isNew = true;
    return plan;
  }

  /** A test for pipelines that nothing waits for: they only report what they find. */
  #laterTest(pipelines: readonly PlannedPipeline[]): (pipeline: PlannedPipeline) => boolean {
    const awaited = new Set(pipelines.flatMap(({ dependsOn }) => dependsOn.map(({ on }) => on)));
    return (one) => !awaited.has(one.name) && isAdvisory(one, this.plan.profile);
  }

  /** Blocks everything if a checker has found errors that hold the build. */
  #hold(builds: readonly PipelineBuild[]): void {
    const by = builds.find(({ isHolding }) => isHolding)?.name;
    if (by !== undefined) for (const build of builds) if (build.isBuilt && build.pipeline.isPublished) build.block(by);
  }

  /** Lets nothing be published if outputs are larger than the limits of the profile. */
  async #checkLimits(builds: readonly PipelineBuild[]): Promise<void> {
    const { limits } = this.plan;
    if (limits.length === 0 || !builds.every(({ isBuilt }) => isBuilt)) return;
    const measured = measureLimits(limits, await limitedOutputs(builds, this.request.executor));
    const problems = exceededLimits(measured);
    for (const problem of problems) this.report(problem);
    const owners = measured
      .filter(({ bytes, gzipBytes }) => gzipBytes > bytes)
      .flatMap(({ outputs }) => outputs.flatMap(({ path }) => this.claims.writerOf(path) ?? []));
    for (const build of builds)
      if (problems.length > 0 && build.pipeline.isPublished)
        if (owners.length === 0 || owners.includes(build.name)) build.fail();
        else build.block(owners[0]!);
  }

  report(one: Diagnostic): void {
    this.#diagnostics.push(one);
    this.request.tell({ event: 'diagnostic', diagnostic: one });
  }

  stateOf(pipeline: string): PipelineState | undefined {
    return this.#builds.get(pipeline)?.outcome.state;
  }

  /** Removes orphaned outputs that a pipeline has read; returns whether any was removed: edited ones are preserved. */
  removeOrphansReadBy(name: string, memo: PipelineMemo): boolean {
    if (!this.#isWhole) return false;
    const orphans = this.schedule.orphansReadBy(name, memo).filter((path) => !this.#preserved.has(path));
    const removed = this.#remove(orphans);
    for (const path of orphans) if (!removed.includes(path)) this.#preserved.add(path);
    this.#removedEarly.push(...removed);
    return removed.length > 0;
  }

  async publishEarly(writer: string, isRead: (path: string) => boolean): Promise<boolean> {
    const build = this.#builds.get(writer)!;
    const outputsOf = ({ outcome }: PipelineBuild): readonly OutputFile[] =>
      outcome.outputs.filter(({ path, encoding }) => encoding === undefined && isRead(path));
    const before = build.states.size;
    if (!build.isBuilt || outputsOf(build).every(({ path }) => build.states.has(path))) return false;
    await this.#publishOutputs([build], outputsOf, { inOrder: (outputs) => outputs, isAtomic: false });
    const states = [...build.states.values()].slice(before);
    return states.includes('written');
  }

  /** Starts all pipelines after all are registered, because earlier ones may have to wait for later ones. */
  #start(pipelines: readonly PlannedPipeline[]): void {
    for (const { name } of pipelines) {
      this.evaluations.set(name, new Gate());
      this.registrations.set(name, new Gate());
    }
    const begun = Promise.resolve();
    for (const pipeline of pipelines) {
      const one = new PipelineBuild(this, pipeline);
      const outcome = begun
        .then(() => one.result())
        .finally(() => {
          this.registrations.get(pipeline.name)!.open();
          this.evaluations.get(pipeline.name)!.open();
        });
      this.#builds.set(pipeline.name, one);
      this.outcomes.set(pipeline.name, outcome);
    }
  }

  /** Reports whether everything that a pipeline has on disk is of this build, so that it refers to nothing earlier. */
  #isUpdated({ isBuilt, states }: PipelineBuild): boolean {
    return isBuilt && !(isNamed(this.plan) && [...states.values()].includes('preserved'));
  }

  /** Publishes all outputs of pipelines. */
  async #publish(builds: readonly PipelineBuild[]): Promise<void> {
    if (isNamed(this.plan)) await this.#publishNamed(builds);
    else {
      const inOrder: PublishRequest['inOrder'] = (outputs) =>
        outputs.length < 2 ? outputs : publishOrder(outputs, targetsOf(outputs, emittedBy(builds), this.plan.site));
      const outputsOf = ({ outcome }: PipelineBuild): readonly OutputFile[] => outcome.outputs;
      await this.#publishOutputs(builds, outputsOf, { inOrder, isAtomic: false });
    }
    for (const { isBuilt, name, outcome, published = outcome.outputs, states } of builds)
      if (isBuilt) this.#publisher.note(name, published, states);
  }

  /** Publishes all outputs of pipelines under names by their content: all of them, or none. */
  async #publishNamed(builds: readonly PipelineBuild[]): Promise<void> {
    const { executor, named } = this.request;
    const naming = new OutputNaming(this.plan, executor, named);
    for (let attempt = 1; ; attempt++) {
      const readers = this.#readers();
      const open = await this.#withoutBlocked(builds, naming, readers);
      const result = await naming.name(open.map((build) => this.#evaluated(build, readers)));
      for (const [name, output] of result.missing) await this.#evaluateMissing(name, output, attempt);
      if (result.missing.size > 0) continue;
      for (const { pipeline, problem } of result.problems) this.#builds.get(pipeline)!.fail(problem);
      const errors = result.findings.filter(({ isError }) => isError);
      for (const build of open) {
        const own = errors.filter(({ pipeline }) => pipeline === build.name);
        await build.reportOutputs(own);
        if (own.length > 0) build.fail();
      }
      if (result.problems.length + errors.length > 0) continue;
      for (const build of open) build.published = result.lists.get(build.name)!;
      const outputsOf = ({ published }: PipelineBuild): readonly OutputFile[] => published!;
      const inOrder: PublishRequest['inOrder'] = (outputs) => publishOrder(outputs, result.targetsOf);
      const again = await this.#publishOnce(open, outputsOf, { inOrder, isAtomic: true });
      if (again.length > 0) continue;
      for (const build of open)
        await build.reportOutputs(result.findings.filter(({ pipeline }) => pipeline === build.name));
      return;
    }
  }

  /** Evaluates a pipeline again because an output is unavailable: it was evicted, or its source has changed. */
  async #evaluateMissing(name: string, { origins: [source] }: OutputFile, attempt: number): Promise<void> {
    const build = this.#builds.get(name)!;
    if (source !== undefined) this.request.outputRoot.files.noteChange(source);
    if (attempt < maxAttempts) return build.evaluateAgain(true);
    build.fail(diagnostic('file-unreadable', { reason: 'it changed while it was read' }, { file: source ?? name }));
  }

  /** The pipelines that were built, except those that refer to outputs of others whose names are unknown. */
  async #withoutBlocked(
    builds: readonly PipelineBuild[],
    naming: OutputNaming,
    readers: ReadonlyMap<string, PathTest>,
  ): Promise<readonly PipelineBuild[]> {
    for (;;) {
      const open = builds.filter(({ isBuilt }) => isBuilt);
      const built = new Set(open.map(({ name }) => name));
      const unbuilt = (path: string): PlannedPipeline | undefined => {
        const writer = this.claims.writerOf(path);
        return writer === undefined || built.has(writer)
          ? undefined
          : this.plan.pipelines.find(({ name }) => name === writer);
      };
      const blocked = open.flatMap((build) => {
        const by = naming.blockerOf(this.#evaluated(build, readers), unbuilt);
        return by === undefined ? [] : [{ build, by }];
      });
      if (blocked.length === 0) return open;
      for (const { build, by } of blocked) {
        if (this.#builds.has(by.writer)) {
          build.block(by.writer);
          continue;
        }
        const parameters = { target: by.target, reader: build.name, writer: by.writer };
        const describe = (place: Place): Diagnostic => diagnostic('name-unknown', parameters, place);
        await build.reportOutputs([{ pipeline: build.name, path: by.output, range: by.range, describe }]);
        build.fail();
      }
    }
  }

  /** The results of a pipeline, to be named. */
  #evaluated({ pipeline, made, isFresh }: PipelineBuild, readers: ReadonlyMap<string, PathTest>): EvaluatedPipeline {
    const others = [...readers].filter(([name]) => name !== pipeline.name).map(([, reads]) => reads);
    return { pipeline, emitted: made.emitted, isFresh, isReadByOthers: (path) => others.some((reads) => reads(path)) };
  }

  /** For each pipeline that may read outputs of others, a test for the paths that it reads. */
  #readers(): ReadonlyMap<string, PathTest> {
    const { memos } = this.request;
    const readers = this.plan.pipelines.filter(
      ({ name, dependsOn }) => dependsOn.length > 0 || this.schedule.readDependencies(name, memos.get(name)).size > 0,
    );
    return new Map(
      readers.map((one) => [one.name, readTest(this.#builds.get(one.name)?.pipeline ?? one, memos.get(one.name))]),
    );
  }

  /** Publishes outputs of pipelines, and again those of pipelines that had to be evaluated again. */
  async #publishOutputs(
    builds: readonly PipelineBuild[],
    outputsOf: (build: PipelineBuild) => readonly OutputFile[],
    request: Omit<PublishRequest, 'isStale'>,
  ): Promise<void> {
    let open = builds;
    while (open.length > 0) open = await this.#publishOnce(open, outputsOf, request);
  }

  /**
   * Publishes outputs of pipelines. Pipelines whose outputs are no longer available are evaluated again, as are those
   * with a source that changed while it was copied.
   *
   * @returns those that have to be published again
   */
  async #publishOnce(
    builds: readonly PipelineBuild[],
    outputsOf: (build: PipelineBuild) => readonly OutputFile[],
    request: Omit<PublishRequest, 'isStale'>,
  ): Promise<readonly PipelineBuild[]> {
    const open = builds.map((build) => ({ name: build.name, outputs: outputsOf(build), isFresh: build.isFresh }));
    const result = await this.#publisher.publish(open, { ...request, isStale: this.#staleTest(builds, outputsOf) });
    if ('missing' in result) {
      const missing = new Set(result.missing);
      for (const build of builds) if (missing.has(build.name)) await build.evaluateAgain(true);
      return builds.filter(({ isBuilt }) => isBuilt);
    }
    const again: PipelineBuild[] = [];
    const failed = result.find(({ diagnostics }) => hasErrors(diagnostics))?.name;
    for (const [at, one] of result.entries()) {
      const build = builds[at]!;
      if (one.changedSource !== undefined && this.#changedSources++ < maxAttempts) {
        this.request.outputRoot.files.noteChange(one.changedSource);
        await build.evaluateAgain(false);
        again.push(build);
      } else if (again.length === 0 || !request.isAtomic) build.take(one, failed);
    }
    return (again.length > 0 && request.isAtomic ? builds : again).filter(({ isBuilt }) => isBuilt);
  }

  /** A test for outputs that are no longer made. */
  #staleTest(
    builds: readonly PipelineBuild[],
    outputsOf: (build: PipelineBuild) => readonly OutputFile[],
  ): (path: string) => boolean {
    const { record } = this.request.outputRoot;
    const names = new Set(builds.map(({ name }) => name));
    let current: Set<string> | undefined;
    const isCurrent = (path: string): boolean =>
      (current ??= new Set(
        builds.flatMap((build) => [...outputsOf(build), ...build.outcome.outputs]).map((one) => one.path),
      )).has(path);
    return (path) => {
      const owner = record.outputs.get(path)?.pipeline;
      const isOwn = owner !== undefined && (names.has(owner) || !this.evaluations.has(owner));
      return isOwn && !isCurrent(path) && !isKept(this.plan, path);
    };
  }

  /** Reports whether all pipelines of the plan are built. */
  get #isWhole(): boolean {
    return this.request.pipelines.length === this.plan.pipelines.length;
  }

  /** Reports a pipeline that has ended. */
  async #reportPipeline({ name }: PlannedPipeline): Promise<PipelineReport> {
    // Commands before it may have written more sources.
    const { outcome, published, states, removed, pipeline } = this.#builds.get(name)!;
    const { sources, isPublished } = pipeline;
    const { outputs: unnamed, ...rest } = outcome;
    const outputs = (rest.state === 'built' && published) || unnamed;
    if (this.request.needsGzip) await this.request.executor.gzipSizes.settled();
    const report = {
      name,
      sources: sources.length,
      isPublished,
      ...rest,
      outputs: reportsOf(outputs, states),
      removed,
    };
    this.request.tell({ event: 'pipeline-done', report });
    return report;
  }

  /**
   * Removes outputs that are no longer made, after everything is published: no output on disk refers to them any more.
   *
   * @returns those of pipelines that the project file no longer contains
   */
  #removeUnused(builds: readonly PipelineBuild[]): readonly string[] {
    const { outputRoot } = this.request;
    const stale = builds.map(({ name, outcome, published = outcome.outputs }) =>
      // Preserved outputs are still in the record, so that equal numbers mean that none is stale.
      outputRoot.record.countOf(name) === published.length
        ? []
        : staleOf(name, published, outputRoot).filter((path) => !isKept(this.plan, path)),
    );
    if (this.#isWhole) this.#releaseSources();
    const orphans = this.#isWhole ? [...orphanedOutputs(this.plan, outputRoot.record, []).values()].flat() : [];
    const due = this.#due([...stale.flat(), ...orphans.filter((path) => !this.#preserved.has(path))]);
    for (const [at, build] of builds.entries())
      build.takeRemoved(
        this.#remove(
          stale[at]!.filter((path) => due.has(path)),
          build.name,
        ),
      );
    return [...this.#removedEarly, ...this.#remove(orphans.filter((path) => due.has(path)))];
  }

  /** Removes outputs of earlier builds that are now sources from the record, since they belong to the user, and reports them. */
  #releaseSources(): void {
    const { outputRoot } = this.request;
    const former = [...outputRoot.record.outputs.keys()].filter((path) => isFormerOutput(this.plan, path));
    if (former.length === 0) return;
    for (const path of former) {
      outputRoot.record.forget(path);
      const readers = this.plan.pipelines.filter(({ sources }) => sources.some((source) => source.path === path));
      const pipelines = readers.map(({ name }) => name).join('`, `');
      this.report(diagnostic('output-now-source', { output: path, pipelines }, { file: path }));
    }
    const problem = saveRecord(outputRoot);
    if (problem) this.report(problem);
  }

  /** The outputs to remove now among those that are no longer made; the others stay for some builds. */
  #due(stale: readonly string[]): ReadonlySet<string> {
    const { keep } = this.plan.profile;
    if (keep === 0 || stale.length === 0) return new Set(stale);
    const { outputRoot } = this.request;
    const due = outputRoot.record.dueAmong(stale, keep);
    outputRoot.record.retire(stale);
    const problem = saveRecord(outputRoot);
    if (problem) this.report(problem);
    return new Set(due);
  }

  #remove(paths: readonly string[], pipeline?: string): readonly string[] {
    if (paths.length === 0) return [];
    const { outputRoot, executor } = this.request;
    const { removed, diagnostics } = remove(paths, outputRoot);
    executor.inputs.recordOutputs([], removed);
    const problem = saveRecord(outputRoot);
    for (const one of [...diagnostics, ...(problem ? [problem] : [])])
      this.report(pipeline === undefined ? one : { ...one, pipeline });
    if (removed.length > 0) this.isNew = true;
    return removed;
  }
}

/** Everything that pipelines have made. */
function* emittedBy(builds: readonly PipelineBuild[]): Iterable<EmittedOutputs> {
  for (const { made } of builds) yield* made.emitted.values();
}

const sum = (numbers: readonly number[]): number => numbers.reduce((all, one) => all + one, 0);
