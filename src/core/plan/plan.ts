import { defaultBrowsers } from '../config/browsers.js';
import { diagnostic, DiagnosticError, hasErrors, suggestion, type Diagnostic } from '../diagnostics/index.js';
import { byCodeUnits } from '../files/globs.js';
import { orderPipelines, type PipelineDependency } from './order.js';
import { ClaimIndex } from './claims.js';
import { conflicts } from './conflicts.js';
import { emptyLimits, plannedLimits, type PlannedLimit } from './limits.js';
import { missingPackages } from './package-sources.js';
import type { PlannedPipeline } from './pipeline.js';
import type { PlanRequest } from './request.js';
import { PipelineResolver, resolveToFixpoint } from './resolver.js';
import { withVariables } from './variables.js';
import {
  emptyGlobs,
  emptyMatches,
  emptyPlainNames,
  outsideBase,
  unreadableFolders,
  unreadVariables,
} from './warnings.js';
import { forProfile, profilePlaceholder } from '../config/editions.js';
import type { Profile } from '../config/profile.js';
import type { ProjectConfig } from '../config/project-config.js';

/** The validated project for one profile: pipelines in order, every default filled in. */
export interface Plan {
  /** The project folder, absolute. */
  readonly root: string;
  readonly profile: Profile;
  /** Resolved target browsers, such as `safari 17.4`. */
  readonly browsers: readonly string[];
  /** The same if the project names them, so that they are promises; none otherwise. */
  readonly namedBrowsers: readonly string[];
  /** All pipelines, each after its dependencies. */
  readonly pipelines: readonly PlannedPipeline[];
  /** Outputs of earlier builds that globs matched, and that are no sources because they are the tool's own. */
  readonly excludedOutputs: readonly string[];
  /** The folders of the same pipelines in other profiles: their outputs there are not those of this plan. */
  readonly otherEditions: readonly string[];
  /** The names of all profiles. */
  readonly profiles: readonly string[];
  /** Settings of the server of the outputs, if known. */
  readonly site: SiteSettings;
  /** The sizes that outputs may have. */
  readonly limits: readonly PlannedLimit[];
  /** Warnings of the plan. */
  readonly diagnostics: readonly Diagnostic[];
}

/** Settings that determine where URLs lead. */
export interface SiteSettings {
  /** The folder that is served, if the project file defines it. */
  readonly folder?: string;
  /** Prefixes of paths that other servers answer for. */
  readonly proxies: readonly string[];
  /** True if there is a page for every path. */
  readonly hasFallback: boolean;
}

/**
 * Plans a build: finds the sources, determines which pipeline reads outputs of another, and orders them.
 *
 * @throws DiagnosticError with every unknown profile, conflict and cycle
 */
export function makePlan(project: ProjectConfig, request: PlanRequest): Plan {
  const written = project.profiles.get(request.profile);
  if (!written) {
    const known = [...project.profiles.keys()];
    const parameters = { name: request.profile, suggestion: suggestion(request.profile, known, 'profiles') };
    throw new DiagnosticError(diagnostic('unknown-profile', parameters));
  }
  const problems: Diagnostic[] = [];
  const profile = inEdition(withVariables(written, project, problems));
  const current = project.pipelines.flatMap(({ to }) => (to === undefined ? [] : [forProfile(to, profile.name)]));
  const folders = [...current, ...otherEditions(project, profile)];
  // What no pipeline can write any more is no output, whatever wrote it: a source that was one belongs to the user.
  const owned = { has: (path: string) => isInSome(folders, path) && request.owned.has(path) };
  const resolvers = resolveToFixpoint(
    project.pipelines.map((config) => new PipelineResolver(config, profile, { ...request, owned })),
  );
  const claims = new ClaimIndex(resolvers.map(({ config: { name }, claims }) => ({ name, claims })));
  const diagnostics = problems;
  const limits = plannedLimits(profile, project);
  for (const [at, resolver] of resolvers.entries())
    diagnostics.push(
      ...missingPackages(project.pipelines[at]!, resolver.located.missing, project, request),
      ...emptyGlobs(resolver, project, request, claims),
      ...emptyMatches(resolver, project),
    );
  diagnostics.push(
    ...resolvers.flatMap((resolver) => outsideBase(resolver, project)),
    ...conflicts(resolvers, project),
  );
  diagnostics.push(
    ...unreadableFolders(project, request),
    ...unreadVariables(profile, project),
    ...emptyPlainNames(profile, project, claims),
    ...emptyLimits(limits, claims),
  );
  const dependsOn = dependenciesOf(resolvers, claims);
  const order = orderPipelines(dependsOn, (name) => project.document.placeOfKey(['pipelines', name]));
  diagnostics.push(...order.diagnostics);
  if (hasErrors(diagnostics)) throw new DiagnosticError(...diagnostics);
  const queries = profile.browsers ?? project.browsers;
  const browsers = request.resolve(queries);
  const planned = new Map(
    resolvers.map((resolver) => [resolver.config.name, resolver.planned(dependsOn.get(resolver.config.name) ?? [])]),
  );
  return {
    root: request.root,
    profile,
    browsers,
    namedBrowsers: queries.join() === defaultBrowsers.join() ? [] : browsers,
    pipelines: order.names.flatMap((name) => planned.get(name) ?? []),
    site: {
      ...(project.serve && { folder: forProfile(project.serve.folder, profile.name) }),
      proxies: Object.keys(project.serve?.proxy ?? {}),
      hasFallback: project.serve?.fallback !== undefined,
    },
    otherEditions: otherEditions(project, profile),
    profiles: [...project.profiles.keys()],
    limits,
    excludedOutputs: [...new Set(resolvers.flatMap((resolver) => resolver.excludedOutputs))].sort(byCodeUnits),
    diagnostics,
  };
}

/** A profile with its name in its globs. */
const inEdition = (profile: Profile): Profile => ({
  ...profile,
  plainNames: profile.plainNames.map((glob) => forProfile(glob, profile.name)),
});

/** The folders that pipelines have in other profiles. */
function otherEditions({ pipelines, profiles }: ProjectConfig, { name }: Profile): string[] {
  const folders = pipelines.flatMap(({ to }) => (to?.includes(profilePlaceholder) === true ? [to] : []));
  const others = [...profiles.keys()].filter((other) => other !== name);
  return [...new Set(folders.flatMap((to) => others.map((other) => forProfile(to, other))))];
}

const isInSome = (folders: readonly string[], path: string): boolean =>
  folders.some((folder) => folder === '.' || path.startsWith(`${folder}/`));

/** Reports whether a file stays that a pipeline wrote earlier: it belongs to another profile, or is now a source. */
export const isKept = (plan: Plan, path: string): boolean =>
  isInSome(plan.otherEditions, path) || isFormerOutput(plan, path);

/** Reports whether a file that a pipeline wrote earlier is now a source of the user: no pipeline writes to its folder. */
export function isFormerOutput({ pipelines, otherEditions: others }: Plan, path: string): boolean {
  const folders = pipelines.flatMap(({ isPublished, to }) => (isPublished ? [to] : []));
  return (
    !isInSome([...folders, ...others], path) &&
    pipelines.some(({ sources }) => sources.some((source) => source.path === path))
  );
}

/**
 * The pipelines that were named, and all that they wait for, in order.
 *
 * @throws DiagnosticError for each unknown name
 */
export function selectPipelines(plan: Plan, names: readonly string[]): readonly PlannedPipeline[] {
  if (names.length === 0) return plan.pipelines;
  const known = plan.pipelines.map((pipeline) => pipeline.name);
  const unknown = names.filter((name) => !known.includes(name));
  if (unknown.length > 0) {
    throw new DiagnosticError(
      ...unknown.map((name) =>
        diagnostic('unknown-pipeline', { name, suggestion: suggestion(name, known, 'pipelines') }),
      ),
    );
  }
  const wanted = new Set(names);
  for (const pipeline of plan.pipelines.toReversed()) {
    if (wanted.has(pipeline.name)) for (const { on } of pipeline.dependsOn) wanted.add(on);
  }
  return plan.pipelines.filter((pipeline) => wanted.has(pipeline.name));
}

/** The dependencies of each pipeline: those that write its sources, and those of `after`. */
function dependenciesOf(resolvers: readonly PipelineResolver[], claims: ClaimIndex): Map<string, PipelineDependency[]> {
  return new Map(
    resolvers.map(({ config: { name, from, after }, sources }) => {
      const dependsOn = new Map<string, PipelineDependency>();
      const add = (writer: string | undefined, reads?: string): void => {
        if (writer !== undefined && writer !== name && !dependsOn.has(writer))
          dependsOn.set(writer, { on: writer, ...(reads !== undefined && { reads }) });
      };
      for (const { path } of sources) add(claims.writerOf(path), path);
      for (const glob of from.filter((one) => !one.startsWith('!')))
        for (const writer of claims.writersOfFoldersMatching(glob)) add(writer, glob);
      for (const other of after) add(other);
      return [name, [...dependsOn.values()]];
    }),
  );
}
