import { error, warning } from './entry.js';

/** Diagnostics of explaining, watching and serving, and of creating a project. */
export const sessions = {
  'why-unknown': error<{ path: string; profile: string; near: string | undefined; isPublished: boolean }>(
    (p) => `${p.path} was not part of the last ${p.profile} build.`,
    (p) =>
      p.isPublished
        ? 'A build for another profile published it: specify that profile with --profile.'
        : p.near === undefined
          ? 'Build first, or list all sources and outputs with `loyal-anvil list --verbose`.'
          : `Did you mean \`${p.near}\`? If the file is new, build first.`,
  ),
  'why-unbuilt': error<{ profile: string }>(
    (p) => `There is no previous ${p.profile} build.`,
    () => 'Run `loyal-anvil build` first, or specify the profile that was built with --profile.',
  ),
  'watch-limit': warning<{ seconds: number }>(
    (p) =>
      `The system limit for watched folders is reached; files are polled every ${p.seconds === 1 ? 'second' : `${String(p.seconds)} seconds`} instead.`,
    () => 'To detect changes immediately, raise the limit of your operating system.',
  ),
  'project-gone': error<{ folder: string }>(
    (p) => `The project folder ${p.folder} was moved, deleted or replaced.`,
    () => 'Nothing more was written. Run the command again in the current project folder.',
  ),
  'serve-missing': error(
    () => 'The project file has no `serve` section.',
    () => 'Add `serve: { folder: site }`, with the folder that the pipelines write to.',
  ),
  'serve-address': error<{ host: string; port: number; reason: string }>(
    (p) => `The server cannot listen on ${p.host}, port ${String(p.port)}: ${p.reason}.`,
    () => 'Set another address with --host and --port, or under `serve` in the project file.',
  ),
  'serve-later': warning(
    () => 'Changes to host, port, hosts or proxies in `serve` take effect after a restart.',
    () => 'Restart the server to apply them.',
  ),
  'init-exists': error<{ file: string }>(
    (p) => `${p.file} already exists.`,
    () => 'Nothing was written. Edit the file, or move it and run the command again.',
  ),
  'init-nothing': error<{ folder: string }>(
    (p) => `No style sheets, scripts or pages found in ${p.folder}.`,
    () =>
      'Add sources in folders such as styles, scripts and pages, or write anvil.yaml by hand as shown in the README.',
  ),
  'init-package': error<{ reason: string }>(
    (p) => `package.json was not changed: ${p.reason}.`,
    () => 'Add the scripts by hand, or fix the file and run the command again.',
  ),
};
