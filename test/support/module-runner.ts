/**
 * A program that imports the modules whose paths it gets as arguments, and prints what each has logged by `log`, at once and by
 * actions that it leaves to `later` and `lazy`.
 */
export const moduleRunner = `
import { pathToFileURL } from 'node:url';
process.on('unhandledRejection', () => {});
const results = [];
for (const entry of process.argv.slice(2)) {
  const said = [], laters = [], lazies = [];
  globalThis.log = (...parts) => said.push(parts.join(' '));
  globalThis.later = (action) => laters.push(action);
  globalThis.lazy = (action) => lazies.push(action);
  const finish = () => { for (const one of laters) try { one() } catch (error) { log('later', error.name) } };
  try {
    await import(pathToFileURL(entry));
    finish();
    for (const one of lazies) await one();
    finish();
  } catch (error) {
    log('failed', error.name);
  }
  results.push(said);
}
console.log(JSON.stringify(results));
`;
