import { posix } from 'node:path';
import type { ProjectConfig } from '../config/project-config.js';
import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import { reservedFolderIn } from '../files/project-path.js';
import { describeClaim, exactPaths } from './claims.js';
import { predictClaims, type PipelineResolver } from './resolver.js';

/**
 * Finds outputs that two pipelines write, outputs that would replace sources, and outputs in reserved folders. Pattern
 * claims are not compared here: their files are only known after the steps have run.
 */
export function conflicts(resolvers: readonly PipelineResolver[], project: ProjectConfig): Diagnostic[] {
  const writers = new Map<string, PipelineResolver>();
  const sources = new Set(resolvers.flatMap((resolver) => resolver.sources.map((source) => source.path)));
  const found: Diagnostic[] = [];
  for (const resolver of resolvers) {
    const { name } = resolver.config;
    const place = project.document.placeOfKey(['pipelines', name]);
    const said = new Set<string>();
    for (const output of exactPaths(resolver.claims)) {
      const first = writers.get(output);
      if (!first) writers.set(output, resolver);
      else if (!said.has(output)) {
        said.add(output);
        const by = [...new Set([first, resolver])].map((one) => writerOf(output, one)).join(' and ');
        found.push(diagnostic('output-conflict', { output, by }, place));
      }
      // A source that only a pipeline writes does not belong to the user.
      const overSource = sources.has(output) && resolvers.some((one) => one.hasOnDisk(output));
      if (overSource || output === project.document.file)
        found.push(diagnostic('output-over-source', { output, pipeline: name }, place));
    }
    for (const path of resolver.claims.map(describeClaim)) {
      const folder = reservedFolderIn(path);
      if (folder === undefined || said.has(folder)) continue;
      said.add(folder);
      found.push(diagnostic('path-reserved', { key: name, path, folder }, place));
    }
  }
  return found;
}

/** A pipeline that writes an output, with the sources it makes it of, for a sentence. */
function writerOf(output: string, { config: { name, to = '.' }, sources, steps }: PipelineResolver): string {
  const made = sources.filter((source) =>
    exactPaths(predictClaims([source], steps)).some((path) => posix.join(to, path) === output),
  );
  return `by \`${name}\`${made.length > 0 ? ` from ${made.map((source) => source.path).join(' and ')}` : ''}`;
}
