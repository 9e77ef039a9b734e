import { diagnostic, type Diagnostic } from '../diagnostics/index.js';
import type { PlannedPipeline } from '../plan/pipeline.js';
import type { PipelineMemo } from './memo.js';

/** A note on the first pipeline that was never built and whose sources are code, although nothing else shows it. */
export function newCode(pipelines: readonly PlannedPipeline[], memos: ReadonlyMap<string, PipelineMemo>): Diagnostic[] {
  for (const { name, steps, sources } of pipelines) {
    const source = sources.find(({ path }) => steps.some(({ definition }) => definition.runsSource?.(path) === true));
    if (source && !memos.has(name)) return [diagnostic('template-code', {}, { file: source.path })];
  }
  return [];
}
