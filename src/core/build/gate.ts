/** Something to wait for that happens once. */
export class Gate {
  open: () => void = () => undefined;
  readonly opened = new Promise<void>((open) => (this.open = open));
}
