import { program } from '../../test/support/program.js';
import { inTurns, ratiosOf, runProcess, type Row } from '../measure.js';

/** Measures `--version` relative to starting Node.js. */
export async function startup(): Promise<Row[]> {
  const times = await inTurns(
    21,
    () => runProcess([program, '--version']),
    () => runProcess(['-e', '0']),
  );
  return [{ what: '--version, whole process', reference: 'node -e 0', bar: 1.2, ...ratiosOf(times) }];
}
