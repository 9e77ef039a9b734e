import { outputKinds, type PastBuild } from '../../core/build/history.js';
import type {
  Duplicate,
  ReportedOutput,
  ReportedPage,
  SiteReport,
  Sizes,
} from '../../core/explain/report/site-report.js';
import { count, formatSize, formatTime } from '../terminal/figures.js';
import { drawHistory } from './history-chart.js';
import { html, type Markup } from './html.js';
import { reportRules, reportStyle } from './style.js';
import { colourOf, drawTimeline } from './timeline.js';
import { drawTreemap } from './treemap.js';

/** The mark of a report, by which a later one may replace it. */
export const reportMark = '<meta name="generator" content="Loyal Anvil: report">';

/** The number of parts, jobs and pages that tables list. */
const [listedParts, listedJobs, listedBuilds] = [30, 25, 10];

interface Unit {
  readonly id: string;
  readonly name: string;
  readonly of: (sizes: Sizes) => number;
}

const units: readonly Unit[] = [
  { id: 'raw', name: 'as they are', of: ({ bytes }) => bytes },
  { id: 'gzip', name: 'with gzip', of: ({ gzipBytes }) => gzipBytes },
  { id: 'brotli', name: 'with Brotli', of: ({ brotliBytes }) => brotliBytes },
];

/** Draws a report as one page, which loads nothing. */
export function drawReport(report: SiteReport): string {
  const sections: readonly (readonly [id: string, title: string, content: Markup])[] = [
    ['outputs', 'What outputs are made of', drawOutputs(report.outputs)],
    ...(report.limits.length > 0 ? [['limits', 'Limits', drawLimits(report)] as const] : []),
    ['duplicates', 'Duplicates', drawDuplicates(report.duplicates)],
    ['pages', 'What pages load', drawPages(report.pages)],
    ['build', 'What the last build did', drawBuild(report)],
    ['history', 'How sizes have changed', drawBuilds(report.builds)],
  ];
  const rules = reportRules(
    outputKinds,
    units.map(({ id }) => id),
  );
  return html`<!doctype html>
    <html lang="en">
      <head>
        <meta charset="utf-8" />
        <meta name="viewport" content="width=device-width" />
        ${raw(reportMark)}
        <title>${`Outputs for ${report.profile}`}</title>
        <style>
          ${raw(reportStyle + rules)}
        </style>
      </head>
      <body>
        <header>
          <h1>${`Outputs for ${report.profile}`}</h1>
          <p>${summary(report.outputs)}</p>
          <nav aria-label="Sections">${sections.map(([id, title]) => html`<a href="#${id}">${title}</a> `)}</nav>
        </header>
        <main>
          ${sections.map(
            ([id, title, content]) =>
              html`<section id="${id}" aria-labelledby="${id}-title">
                <h2 id="${id}-title">${title}</h2>
                ${content}
              </section> `,
          )}
        </main>
      </body>
    </html> `.text;
}

const raw = (text: string): Markup => html(Object.assign([text], { raw: [text] }));

function summary(outputs: readonly ReportedOutput[]): string {
  const [bytes, gzip, brotli] = units.map(({ of }) => formatSize(outputs.reduce((sum, one) => sum + of(one), 0)));
  return `${count(outputs.length, 'output')}: ${bytes!}; ${gzip!} with gzip, ${brotli!} with Brotli.`;
}

function drawOutputs(outputs: readonly ReportedOutput[]): Markup {
  const kinds = outputKinds.filter((kind) => outputs.some((one) => one.kind === kind));
  return html`<div class="sizes">
    <fieldset>
      <legend>Sizes</legend>
      ${units.map(({ id, name }, at) => html`<label><input type="radio" name="as" id="as-${id}" ${at === 1 ? raw(' checked') : undefined} /> ${name}</label>`)}
    </fieldset>
    ${units.map(({ id, name, of }) => html`<div class="as-${id}">${drawTreemap(outputs, of, id === 'raw' ? '' : name.replace('with ', ''))}</div>`)}
    <p class="faint">${kinds.map((kind) => html`<span class="key kind-${kind}"></span>${kind} `)}</p>
    <div class="scroll">
      <table>
        <caption>
          All outputs, the largest first; the sizes of their parts are those without compression.
        </caption>
        <thead>
          <tr>
            <th scope="col">output</th>
            <th scope="col">pipeline</th>
            ${units.map(({ id }) => html`<th scope="col" class="number">${id}</th>`)}
          </tr>
        </thead>
        <tbody>
          ${outputs.map(drawOutput)}
        </tbody>
      </table>
    </div>
  </div>`;
}

function drawOutput(output: ReportedOutput): Markup {
  const { path, pipeline, parts } = output;
  const more = parts.length - listedParts;
  const list = html`<ul>
    ${parts.slice(0, listedParts).map(({ source, bytes }) => html`<li>${source}, ${formatSize(bytes)}</li>`)}${more > 0 ? html`<li>${count(more, 'more part')}</li>` : undefined}
  </ul>`;
  const name =
    parts.length < 2
      ? path
      : html`<details>
          <summary>${path}</summary>
          ${list}
        </details>`;
  return html`<tr>
    <td class="path">${name}</td>
    <td>${pipeline}</td>
    ${units.map(({ of }) => html`<td class="number">${formatSize(of(output))}</td>`)}
  </tr> `;
}

function drawLimits({ limits }: SiteReport): Markup {
  return html`<table>
    <caption>
      The limits of the profile, and the sizes of all outputs that they stand for, with gzip.
    </caption>
    <thead>
      <tr>
        <th scope="col">outputs</th>
        <th scope="col" class="number">size</th>
        <th scope="col" class="number">limit</th>
        <th scope="col">state</th>
      </tr>
    </thead>
    <tbody>
      ${limits.map(
        ({ of, limit, gzipBytes }) =>
          html`<tr>
            <td class="path">${of}</td>
            <td class="number">${formatSize(gzipBytes)}</td>
            <td class="number">${formatSize(limit)}</td>
            <td>
              ${gzipBytes > limit ? html`<span class="over">${formatSize(gzipBytes - limit)} too much</span>` : `${formatSize(limit - gzipBytes)} left`}
            </td>
          </tr>`,
      )}
    </tbody>
  </table>`;
}

const duplicateKinds: Readonly<Record<Duplicate['kind'], string>> = {
  package: 'several copies of a package',
  source: 'a source in several outputs',
  output: 'outputs with the same content',
};

function drawDuplicates(duplicates: readonly Duplicate[]): Markup {
  if (duplicates.length === 0) return html`<p>Nothing.</p>`;
  return html`<div class="scroll">
    <table>
      <caption>
        What would be saved if each were there once.
      </caption>
      <thead>
        <tr>
          <th scope="col">what</th>
          <th scope="col">name</th>
          <th scope="col">where</th>
          <th scope="col" class="number">saved</th>
        </tr>
      </thead>
      <tbody>
        ${duplicates.map(
          ({ kind, name, places, bytes }) =>
            html`<tr>
              <td>${duplicateKinds[kind]}</td>
              <td class="path">${name}</td>
              <td class="path">${places.join(', ')}</td>
              <td class="number">${formatSize(bytes)}</td>
            </tr> `,
        )}
      </tbody>
    </table>
  </div>`;
}

function drawPages(pages: readonly ReportedPage[]): Markup {
  if (pages.length === 0) return html`<p>No pipeline writes pages.</p>`;
  const files = (paths: readonly string[]): Markup =>
    html`<details>
      <summary>${count(paths.length, 'file')}</summary>
      <ul>
        ${paths.map((path) => html`<li>${path}</li>`)}
      </ul>
    </details>`;
  return html`<div class="scroll">
    <table>
      <caption>
        What has to be there until a page shows (the page, its style sheets, and scripts that it waits for), and
        everything that it loads, with gzip.
      </caption>
      <thead>
        <tr>
          <th scope="col">page</th>
          <th scope="col">until it shows</th>
          <th scope="col" class="number">size</th>
          <th scope="col">all</th>
          <th scope="col" class="number">size</th>
        </tr>
      </thead>
      <tbody>
        ${pages.map(
          ({ path, first, all }) =>
            html`<tr>
              <td class="path">${path}</td>
              <td>${files(first.files)}</td>
              <td class="number">${formatSize(first.gzipBytes)}</td>
              <td>${files(all.files)}</td>
              <td class="number">${formatSize(all.gzipBytes)}</td>
            </tr> `,
        )}
      </tbody>
    </table>
  </div>`;
}

function drawBuild({ builds, jobs, omitted, pipelines }: SiteReport): Markup {
  const last = builds.at(-1);
  if (!last)
    return html`<p>
      There is no record yet: <code>loyal-anvil build</code> records each build that changes something.
    </p>`;
  const names = pipelines.map(({ name }) => name);
  const sum = (own: typeof jobs): number => own.reduce((total, one) => total + one.milliseconds, 0);
  const bySteps = [...new Set(jobs.map(({ step }) => step))]
    .map((step) => ({ step, own: jobs.filter((job) => job.step === step) }))
    .sort((a, b) => sum(b.own) - sum(a.own));
  const longest = [...jobs].sort((a, b) => b.milliseconds - a.milliseconds).slice(0, listedJobs);
  return html`<p>
      ${`${time(last.time)}: ${formatTime(last.milliseconds)}, ${count(last.jobs.run, 'job')} run, ${String(last.jobs.reused)} reused.`}${omitted > 0 ? ` ${count(omitted, 'short job')} left out.` : ''}
    </p>
    ${jobs.length > 0 ? drawTimeline(jobs, names) : undefined}
    <p class="faint">
      ${names.map((name) => html`<span class="key pipeline-${colourOf(name, names)}"></span>${name} `)}
    </p>
    <h3>Pipelines</h3>
    <table>
      <thead>
        <tr>
          <th scope="col">pipeline</th>
          <th scope="col">waited for</th>
          <th scope="col" class="number">began</th>
          <th scope="col" class="number">ended</th>
          <th scope="col" class="number">jobs</th>
        </tr>
      </thead>
      <tbody>
        ${pipelines.map(({ name, waitsFor }) => {
          const own = jobs.filter(({ pipeline }) => pipeline === name);
          const from = Math.min(...own.map(({ start }) => start));
          const to = Math.max(...own.map(({ start, milliseconds }) => start + milliseconds));
          const at = (value: number): string => (own.length === 0 ? '–' : formatTime(value));
          return html`<tr>
            <td>${name}</td>
            <td>${waitsFor.join(', ') || '–'}</td>
            <td class="number">${at(from)}</td>
            <td class="number">${at(to)}</td>
            <td class="number">${own.length}</td>
          </tr>`;
        })}
      </tbody>
    </table>
    <h3>Where the time went</h3>
    <table>
      <caption>
        Jobs overlap, so that their times together are longer than the build.
      </caption>
      <thead>
        <tr>
          <th scope="col">step</th>
          <th scope="col" class="number">jobs</th>
          <th scope="col" class="number">time</th>
        </tr>
      </thead>
      <tbody>
        ${bySteps.map(
          ({ step, own }) =>
            html`<tr>
              <td>${step}</td>
              <td class="number">${own.length}</td>
              <td class="number">${formatTime(sum(own))}</td>
            </tr>`,
        )}
      </tbody>
    </table>
    <h3>The longest jobs</h3>
    <div class="scroll">
      <table>
        <thead>
          <tr>
            <th scope="col">pipeline</th>
            <th scope="col">step</th>
            <th scope="col">source</th>
            <th scope="col" class="number">began</th>
            <th scope="col" class="number">time</th>
          </tr>
        </thead>
        <tbody>
          ${longest.map(
            ({ pipeline, step, file, start, milliseconds }) =>
              html`<tr>
                <td>${pipeline}</td>
                <td>${step}</td>
                <td class="path">${file}</td>
                <td class="number">${formatTime(start)}</td>
                <td class="number">${formatTime(milliseconds)}</td>
              </tr>`,
          )}
        </tbody>
      </table>
    </div>`;
}

function drawBuilds(builds: readonly PastBuild[]): Markup {
  if (builds.length === 0) return html`<p>Nothing is known yet.</p>`;
  const kinds = outputKinds.filter((kind) => builds.some(({ sizes }) => sizes[kind]));
  return html`${drawHistory(builds)}
    <div class="scroll">
      <table>
        <caption>
          ${`The last ${String(Math.min(builds.length, listedBuilds))} builds that changed something, the latest first; sizes with gzip.`}
        </caption>
        <thead>
          <tr>
            <th scope="col">build</th>
            <th scope="col" class="number">time</th>
            ${kinds.map((kind) => html`<th scope="col" class="number">${kind}</th>`)}
          </tr>
        </thead>
        <tbody>
          ${builds
            .slice(-listedBuilds)
            .reverse()
            .map(
              (build) =>
                html`<tr>
                  <td>${time(build.time)}</td>
                  <td class="number">${formatTime(build.milliseconds)}</td>
                  ${kinds.map((kind) => html`<td class="number">${formatSize(build.sizes[kind]?.gzipBytes ?? 0)}</td>`)}
                </tr>`,
            )}
        </tbody>
      </table>
    </div>`;
}

/** A time for people, in UTC. */
const time = (iso: string): string => iso.replace('T', ' ').replace(/\..*$/, ' UTC');
