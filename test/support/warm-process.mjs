// Runs the built program again and again in one process, as messages ask: its modules are loaded once.
import { PassThrough } from 'node:stream';
import { pathToFileURL } from 'node:url';

let runs = 0;
process.setMaxListeners(0);

/** Replaces a standard stream by one whose text is kept. */
function kept(name) {
  let text = '';
  const stream = new PassThrough().setEncoding('utf8').on('data', (more) => (text += more));
  Object.defineProperty(process, name, { value: stream, configurable: true });
  return { done: () => new Promise((done) => stream.end(() => setImmediate(() => done(text)))) };
}

process.on('message', async ({ bin, args, cwd, env }) => {
  for (const name of Object.keys(process.env)) Reflect.deleteProperty(process.env, name);
  Object.assign(process.env, env);
  process.chdir(cwd);
  process.argv = [process.execPath, bin, ...args];
  process.exitCode = undefined;
  const [out, err] = [kept('stdout'), kept('stderr')];
  await import(`${pathToFileURL(bin).href}?run=${String(++runs)}`);
  process.removeAllListeners('exit');
  const code = process.exitCode ?? 0;
  process.exitCode = undefined;
  process.chdir('/');
  process.send({ code, stdout: await out.done(), stderr: await err.done() });
});
