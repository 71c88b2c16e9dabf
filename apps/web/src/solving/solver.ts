import type { SteadyResult } from '@lurn/core';
import type { SolvingOrder } from './solving-worker';

/** Solving what will soon be out of date takes no more than a fifth of a core from whoever finds more. */
const restAfter = 4;

/** Solves in a thread of its own; of orders that pile up only the latest is carried out. */
export class Solver {
  private readonly worker = new Worker(new URL('./solving-worker.ts', import.meta.url), { type: 'module' });
  private waiting: SolvingOrder | null = null;
  private busy = false;
  private hurry = false;
  private began = 0;
  private restUntil = 0;
  private rest: ReturnType<typeof setTimeout> | undefined;
  private idle: (() => void)[] = [];

  constructor(onResult: (result: SteadyResult) => void) {
    this.worker.onmessage = ({ data }: MessageEvent<SteadyResult>) => {
      this.busy = false;
      const now = performance.now();
      this.restUntil = now + restAfter * (now - this.began);
      onResult(data);
      this.send();
      if (!this.busy && !this.waiting) this.idle.splice(0).forEach((tell) => tell());
    };
  }

  /** An order in no hurry is one that the next will soon make out of date. */
  solve(order: SolvingOrder, { hurry }: { hurry: boolean }): void {
    this.waiting = order;
    this.hurry ||= hurry;
    this.send();
  }

  /** Resolves when everything ordered so far has been solved and told. */
  settled(): Promise<void> {
    this.hurry = true;
    this.send();
    return this.busy ? new Promise((resolve) => this.idle.push(resolve)) : Promise.resolve();
  }

  private send(): void {
    if (this.busy || !this.waiting) return;
    clearTimeout(this.rest);
    const rest = this.restUntil - performance.now();
    if (rest > 0 && !this.hurry) {
      this.rest = setTimeout(() => this.send(), rest);
      return;
    }
    this.busy = true;
    this.hurry = false;
    this.began = performance.now();
    this.worker.postMessage(this.waiting);
    this.waiting = null;
  }
}
