import { Booking } from './booking';
import { markProgramme } from './programme';
import { drawChart } from './sky/chart';

declare const DEBUG: boolean;

const list = document.querySelector('.tonight');
if (list) markProgramme(list);

const canvas = document.querySelector<HTMLCanvasElement>('.chart canvas');
if (canvas) {
  drawChart(canvas);
  window.addEventListener('resize', () => drawChart(canvas));
}

const form = document.querySelector<HTMLFormElement>('.booking');
const answer = form?.querySelector('output');
if (form && answer) new Booking(form, answer);

document.documentElement.dataset['ready'] = 'yes';
if (DEBUG) console.debug('Fernlight is awake');
