import type { JobRun } from '../../core/build/report.js';
import { formatTime } from '../terminal/figures.js';
import { html, type Markup } from './html.js';

/** The size of the drawing: its width, the room for names, and the height of a row. */
const [width, names, row] = [1200, 130, 16];

/** The number of colours of pipelines. */
const colours = 8;

/** Draws the jobs of a build over time: rows for each thread, as many as it has jobs at a time. */
export function drawTimeline(jobs: readonly JobRun[], pipelines: readonly string[]): Markup {
  const end = Math.max(1, ...jobs.map(({ start, milliseconds }) => start + milliseconds));
  const x = (time: number): number => round(names + (time / end) * (width - names - 8));
  const threads = new Map<string, JobRun[]>();
  const order = [...new Set(jobs.map(({ thread }) => thread ?? Infinity))].sort((a, b) => a - b);
  for (const one of order)
    threads.set(
      nameOf(one),
      jobs.filter(({ thread }) => (thread ?? Infinity) === one),
    );
  let y = row + 8;
  const groups: Markup[] = [];
  for (const [name, own] of threads) {
    const lanes = inLanes(own);
    const bars = lanes.flatMap((lane, at) => lane.map((job) => drawJob(job, x, y + at * row, pipelines)));
    groups.push(html`<text x="4" y="${y + 12}" class="name">${name}</text>${bars}`);
    y += lanes.length * row + 8;
  }
  const ticks = ticksUntil(end).map(
    (time) =>
      html`<line x1="${x(time)}" x2="${x(time)}" y1="${row}" y2="${y}" /><text x="${x(time) + 3}" y="12"
          >${time === 0 ? '0' : formatTime(time)}</text
        >`,
  );
  const label = `${String(jobs.length)} jobs in ${formatTime(end)}; the tables below have the longest.`;
  return html`<svg viewBox="0 0 ${width} ${y}" role="img" aria-label="${label}" class="timeline">
    <g class="ticks">${ticks}</g>
    ${groups}
  </svg>`;
}

/** The colour of a pipeline, by its place. */
export const colourOf = (pipeline: string, pipelines: readonly string[]): number =>
  Math.max(0, pipelines.indexOf(pipeline)) % colours;

function nameOf(thread: number): string {
  if (thread === 0) return 'main thread';
  return thread === Infinity ? 'other programs' : `thread ${String(thread)}`;
}

/** Puts jobs that overlap into different lanes. */
function inLanes(jobs: readonly JobRun[]): readonly (readonly JobRun[])[] {
  const lanes: { readonly jobs: JobRun[]; end: number }[] = [];
  for (const job of jobs) {
    let lane = lanes.find(({ end }) => end <= job.start);
    if (!lane) lanes.push((lane = { jobs: [], end: 0 }));
    lane.jobs.push(job);
    lane.end = job.start + job.milliseconds;
  }
  return lanes.map((one) => one.jobs);
}

function drawJob(job: JobRun, x: (time: number) => number, y: number, pipelines: readonly string[]): Markup {
  const { pipeline, step, file, start, milliseconds } = job;
  const title = `${pipeline}: ${step}${file === undefined ? '' : ` ${file}`}, ${formatTime(milliseconds)} from ${formatTime(start)} on`;
  const size = Math.max(1, round(x(start + milliseconds) - x(start)));
  const text = size > step.length * 7 + 8 ? html`<text x="${x(start) + 4}" y="${y + 11}">${step}</text>` : undefined;
  return html`<g class="pipeline-${colourOf(pipeline, pipelines)}"
    ><rect x="${x(start)}" y="${y}" width="${size}" height="${row - 2}" rx="2"><title>${title}</title></rect>${text}</g
  >`;
}

/** Round times, at most ten. */
function ticksUntil(end: number): number[] {
  const power = 10 ** Math.floor(Math.log10(end));
  const step = [0.1, 0.2, 0.5, 1].map((one) => one * power).find((one) => end / one <= 10) ?? power;
  return Array.from({ length: Math.floor(end / step) + 1 }, (_, at) => at * step);
}

const round = (value: number): number => Math.round(value * 10) / 10;
