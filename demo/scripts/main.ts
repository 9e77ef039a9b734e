import { markProgramme } from './parts/programme';
import { wake } from './parts/wake';

const list = document.querySelector('.tonight');
if (list) markProgramme(list);

// Only the start page has a chart: the others do not load what draws it.
const canvas = document.querySelector<HTMLCanvasElement>('.chart canvas');
if (canvas) {
  void import('./sky/chart').then(({ drawChart }) => {
    drawChart(canvas);
    window.addEventListener('resize', () => drawChart(canvas));
  });
}

wake();
