import type { StepContext } from '../assets/context.js';
import { projectPackage } from './project-package.js';

/** The part of the package that is used. */
type Parser = new (options: { readonly html: boolean }) => { render(text: string): string };

/** Converts Markdown (CommonMark, with tables) to HTML by the package that the project has installed. */
export async function markdownToHtml(text: string, file: string, context: StepContext): Promise<string> {
  const Parser = await projectPackage<Parser>('markdown-it', file, context);
  return new Parser({ html: true }).render(text);
}
