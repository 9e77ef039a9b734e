import { isDark } from 'fernlight-moon';

/** How many visitors the dome holds. */
const seats = 24;

export class Booking {
  #taken = 0;

  constructor(
    private readonly form: HTMLFormElement,
    private readonly answer: HTMLOutputElement,
  ) {
    form.addEventListener('submit', (event) => {
      event.preventDefault();
      this.book();
    });
  }

  get free(): number {
    return seats - this.#taken;
  }

  private book(): void {
    const data = new FormData(this.form);
    const wanted = Number(data.get('visitors') ?? 1);
    const name = String(data.get('name') ?? '').trim() || 'stargazer';
    if (wanted > this.free) {
      this.answer.value = `Only ${this.free} places are left for tonight.`;
      return;
    }
    this.#taken += wanted;
    this.answer.value = `Thank you, ${name}: ${wanted} ${wanted === 1 ? 'place is' : 'places are'} yours. ${isDark(new Date()) ? 'Bring a lantern' : 'Bring a warm coat'}.`;
  }
}
