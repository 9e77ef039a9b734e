import type { ProjectConfig } from '../config/project-config.js';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { describeClaim } from './claims.js';
import type { Plan } from './plan.js';

/** Finds pipelines that write the same files in several of some profiles. */
export function editionConflicts(plans: readonly Plan[], { document }: ProjectConfig): Diagnostic[] {
  const writers = new Map<string, { readonly pipeline: string; readonly profiles: string[] }>();
  for (const { pipelines, profile } of plans)
    for (const { name: pipeline, claims } of pipelines)
      for (const path of claims.map(describeClaim)) {
        const known = writers.get(path);
        if (known) known.profiles.push(profile.name);
        else writers.set(path, { pipeline, profiles: [profile.name] });
      }
  const found = new Map<string, Diagnostic>();
  for (const [path, { pipeline, profiles }] of writers) {
    if (profiles.length < 2 || found.has(pipeline)) continue;
    const parameters = { pipeline, path, profiles: profiles.join(', ') };
    found.set(pipeline, diagnostic('profile-conflict', parameters, document.place(['pipelines', pipeline, 'to'])));
  }
  return [...found.values()];
}
