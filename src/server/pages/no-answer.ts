import { drawPage, escapeText } from './page.js';

/** The page for a request that another server did not answer. */
export function noAnswerPage(prefix: string, url: string, reason: string): string {
  return drawPage({
    title: 'The other server does not answer',
    body: `<p><code>${escapeText(prefix)}</code> belongs to <code>${escapeText(url)}</code>: ${escapeText(reason)}.</p>
<p>Start that server, or fix <code>serve.proxy</code> in the project file, and load this page again.</p>`,
  });
}
