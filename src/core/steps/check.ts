import { Field } from '../config/field.js';
import { choice, commandLine, filePath, flag, names, seconds, text, textList } from '../config/value-types.js';
import type { Step } from './step.js';

/** Options of `check`. */
export class CheckOptions {
  @Field(choice('types', 'eslint', 'stylelint'), {
    doc: 'The checker: `types` checks the types of a TypeScript project; `eslint` and `stylelint` check each source with the package and the configuration of the project.',
    default: 'none: `run` names a command',
  })
  with?: 'types' | 'eslint' | 'stylelint';

  @Field(filePath, {
    doc: 'The project of `types`, a tsconfig.json.',
    default: 'the nearest one to the sources',
  })
  project?: string;

  @Field(commandLine, {
    doc: 'Any other checker: a command, as for the step `run`, that writes what it finds to standard output.',
  })
  run?: string | readonly string[];

  @Field(text, {
    doc: 'The form of what the command writes: `lines` (`file:line:column: severity: message [rule]`), `json` (a list of objects with these keys), `sarif`, `checkstyle`, or a pattern of lines such as `{file}({line},{column}): {severity} {rule}: {message}`.',
    default: '`lines`',
  })
  findings?: string;

  @Field(flag, {
    doc: 'Whether errors keep the build from publishing anything.',
    default: '`false` in the profile `development`, otherwise `true`',
  })
  holds?: boolean;

  @Field(flag, {
    doc: 'Whether `build --fix` lets the linter change its sources. Nothing else does.',
    default: '`false`',
  })
  fix?: boolean;

  @Field(textList('globs', 'a glob or a list of globs'), {
    doc: 'Globs of further files that the checker reads, relative to the project.',
    default: 'none',
  })
  reads?: string | readonly string[];

  @Field(names, { doc: 'Names of environment variables that the result of the command depends on.', default: 'none' })
  environment?: string | readonly string[];

  @Field(seconds, { doc: 'The time after which the command is ended, in seconds.', default: '`300`' })
  timeLimit?: number;
}

/** Reports what a checker finds, and passes assets on unchanged. */
export const check: Step<CheckOptions> = {
  name: 'check',
  doc: 'Reports what a checker finds in the sources, and passes them on unchanged.',
  version: 1,
  options: CheckOptions,
  mainOption: 'with',
  gathers: ({ with: checker }) => checker !== 'eslint' && checker !== 'stylelint',
  passesOn: () => true,
  isTask: true,
  holds: ({ holds }, profile) => holds ?? profile !== 'development',
  runsAlways: ({ with: checker, reads }) => checker === undefined && reads === undefined,
  settings: () => ['profile'],
  toolVersions: () => ['typescript'],
  // Checkers have threads or processes of their own.
  runsInProcess: () => false,
  claims: (paths) => paths,
  async run(assets, options, context) {
    const { checkAssets } = await import('./work/check.js');
    await checkAssets(assets, options, context, check.holds!(options, context.settings.profile));
    return assets;
  },
};
