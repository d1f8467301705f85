type Work = () => Promise<void>;

/**
 * Does one piece of work after the other: first what the picture is waiting for, in the order it came, then the rest. Of the rest each piece says
 * where it can be interrupted, so that a hand that begins to move does not wait until something is measured to its end.
 */
export class Turns {
  readonly #pictures: Work[] = [];
  readonly #rest: Work[] = [];
  readonly #heard: () => Promise<void>;
  #atWork = false;

  /** @param heard - waits until what was sent meanwhile has been received. */
  constructor(heard: () => Promise<void> = receiving()) {
    this.#heard = heard;
  }

  /** @param work - does not fail. */
  add(isPicture: boolean, work: Work): void {
    (isPicture ? this.#pictures : this.#rest).push(work);
    if (!this.#atWork) void this.#workOn();
  }

  /** Within other work, where nothing of it is under way: lets pictures pass that are wanted by now. @returns whether there were any. */
  async giveWay(): Promise<boolean> {
    await this.#heard();
    const passed = this.#pictures.length > 0;
    for (let next; (next = this.#pictures.shift());) await next();
    return passed;
  }

  async #workOn(): Promise<void> {
    this.#atWork = true;
    for (let next; (next = this.#pictures.shift() ?? this.#rest.shift());) await next();
    this.#atWork = false;
  }
}

/** Messages are received in the order in which they were sent: one to oneself comes after those that wait. */
function receiving(): () => Promise<void> {
  const { port1, port2 } = new MessageChannel();
  return () =>
    new Promise((go) => {
      port1.onmessage = () => go();
      port2.postMessage(null);
    });
}
