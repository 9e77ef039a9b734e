import { error, note, warning } from './entry.js';

/** Diagnostics of publishing. */
export const publishing = {
  'output-foreign': error<{ output: string }>(
    (p) => `${p.output} already exists and was not written by Loyal Anvil.`,
    () => 'Move or delete it, choose another `to`, or replace it with --force.',
  ),
  'output-edited': warning<{ output: string; did: string }>(
    (p) => `${p.output} was edited after it was written, so it was ${p.did}.`,
    () => 'Apply the edit to the source, then run the command with --force.',
  ),
  'output-now-source': warning<{ output: string; pipelines: string }>(
    (p) => `${p.output} was an output of an earlier build and is now a source of \`${p.pipelines}\`.`,
    () =>
      'No pipeline writes it any more, so it is yours: builds neither overwrite nor remove it. Delete it if it is a leftover.',
  ),
  'output-unwritable': error<{ output: string; reason: string }>(
    (p) => `${p.output} cannot be written: ${p.reason}.`,
    () => 'Nothing in this pipeline was published; previous outputs kept. Free disk space or fix the permissions.',
  ),
  'record-unreadable': error<{ reason: string }>(
    (p) => `The record of written outputs cannot be read: ${p.reason}.`,
    () =>
      'Nothing was built: without the record, outputs cannot be distinguished from your own files. Fix its permissions; if it is not a regular file, delete it.',
  ),
  'record-untrusted': warning<{ ignored: string }>(
    (p) =>
      `The record of written outputs comes from another folder and lists files that no pipeline writes: ${p.ignored}.`,
    () => 'They are ignored. If they are old outputs, delete them yourself.',
  ),
  'project-shared': warning<{ id: number; profile: string; isSession: boolean }>(
    (p) =>
      `${p.isSession ? 'A session' : 'A build'} for \`${p.profile}\` is already running in this project (process ${String(p.id)}) and writes the same outputs.`,
    (p) =>
      p.isSession
        ? 'The session overwrites these outputs at its next rebuild. Stop it before you build a release.'
        : 'The last one to write wins. Build again when the other build has finished.',
  ),
  'outputs-restored': note<{ outputs: string }>(
    (p) => `Outputs that another build had replaced were written again: ${p.outputs}.`,
    () => 'To keep the outputs of the other build, stop this session first.',
  ),
  'record-unwritable': error<{ path: string; reason: string }>(
    (p) => `The record of written outputs cannot be saved to ${p.path}: ${p.reason}.`,
    () =>
      'Nothing was written: the next build could not distinguish outputs from your own files. Free disk space or fix the permissions.',
  ),
  'store-unusable': warning<{ reason: string }>(
    (p) => `Results cannot be cached: ${p.reason}.`,
    () =>
      'This build is complete, but the next one has to run every job again. Free disk space or fix the permissions.',
  ),
};
