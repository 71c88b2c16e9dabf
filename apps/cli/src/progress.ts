import { SingleBar } from 'cli-progress';

/** Tells how far a piece of work has come: a bar on a terminal, a line every tenth when piped. */
export class Progress {
  private readonly bar: SingleBar | null;
  private tenths = 0;

  constructor(
    private readonly title: string,
    private total: number | null,
  ) {
    const format =
      total === null
        ? `${title} {value} frames`
        : `${title} {bar} {percentage} % · {value} of {total} frames · {eta_formatted} left`;
    this.bar = process.stderr.isTTY
      ? new SingleBar({ format, hideCursor: true, clearOnComplete: true, stream: process.stderr })
      : null;
    this.bar?.start(total ?? 1, 0);
  }

  /** `total` where it is known only on the way. */
  readonly update = (done: number, total = this.total): void => {
    if (total !== null) this.bar?.setTotal(total);
    this.total = total;
    this.bar?.update(done);
    if (this.bar || this.total === null) return;
    const tenths = Math.floor((10 * done) / this.total);
    if (tenths <= this.tenths) return;
    this.tenths = tenths;
    process.stderr.write(`${this.title}: ${done} of ${this.total} frames (${tenths * 10} %)\n`);
  };

  end(): void {
    this.bar?.stop();
  }
}
