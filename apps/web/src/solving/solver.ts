import type { SteadyResult } from '@lurn/core';
import type { SolvingOrder } from './solving-worker';

/** Solves in a thread of its own; of orders that pile up only the latest is carried out. */
export class Solver {
  private readonly worker = new Worker(new URL('./solving-worker.ts', import.meta.url), { type: 'module' });
  private waiting: SolvingOrder | null = null;
  private busy = false;
  private idle: (() => void)[] = [];

  constructor(onResult: (result: SteadyResult) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<SteadyResult>) => {
      this.busy = false;
      onResult(data);
      this.send();
      if (!this.busy) this.idle.splice(0).forEach((tell) => tell());
    };
  }

  solve(order: SolvingOrder): void {
    this.waiting = order;
    this.send();
  }

  /** Resolves when everything ordered so far has been solved and told. */
  settled(): Promise<void> {
    return this.busy ? new Promise((resolve) => this.idle.push(resolve)) : Promise.resolve();
  }

  private send(): void {
    if (this.busy || !this.waiting) return;
    this.busy = true;
    this.worker.postMessage(this.waiting);
    this.waiting = null;
  }
}
