import type { SettingPath } from '../config/document.js';
import type { PipelineConfig } from '../config/project-config.js';

/** Where a glob of a pipeline stands in the project file. */
export const sourcePath = ({ name, from }: Pick<PipelineConfig, 'name' | 'from'>, index: number): SettingPath => [
  'pipelines',
  name,
  'from',
  ...(from.length > 1 ? [index] : []),
];
