import { Booking } from './parts/booking';
import { wake } from './parts/wake';

const form = document.querySelector<HTMLFormElement>('.booking');
const answer = form?.querySelector('output');
if (form && answer) new Booking(form, answer);

wake();
