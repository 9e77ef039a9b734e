// The resolve hook of modules of projects: it runs on a thread of its own (Node.js documentation, "Customization hooks").
import type { ResolveHookContext, ResolveFnOutput } from 'node:module';

/** The parameter of URLs that tells one version of a module from another. */
const parameter = 'anvil-version';

/** Lets a module import the other modules of its project in the version that it has itself. */
export async function resolve(
  specifier: string,
  context: ResolveHookContext,
  next: (specifier: string, context: ResolveHookContext) => ResolveFnOutput | Promise<ResolveFnOutput>,
): Promise<ResolveFnOutput> {
  const found = await next(specifier, context);
  const version = versionOf(context.parentURL);
  const isOwn = found.url.startsWith('file:') && !found.url.includes('/node_modules/') && !found.url.includes('?');
  if (version === null || !isOwn || found.format === 'commonjs') return found;
  return { ...found, url: `${found.url}?${parameter}=${version}` };
}

const versionOf = (url: string | undefined): string | null =>
  url?.startsWith('file:') === true ? new URL(url).searchParams.get(parameter) : null;
