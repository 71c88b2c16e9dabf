import { Worker } from 'node:worker_threads';
import { coresInUse } from '@lurn/media';
import { asPicture, type PictureFormat } from './pass-picture.js';
import type { Analysis, PassFrame, SharedAnalysis } from './analyser.js';
import { ThreadWork, type AnalyserOrder, type Found } from './thread-work.js';

/** What a thread is told, and what it answers. */
export type ThreadOrder =
  | { begin: 1 | -1; format: PictureFormat; analysers: AnalyserOrder[] }
  /** `shared` is what the shared analysis says of the way from the last picture; undefined where it says nothing. */
  | { look: number; data: Uint8Array; shared: unknown };
export type ThreadAnswer = { found: Found[]; busy: boolean } | { failed: Error };

/** Work that has nothing to do: with it its memory is used again. */
const resting: ThreadWork[] = [];

/** Threads that have nothing to do: a new one would have to warm up first. */
const idle: PassThread[] = [];

/** A thread beside this one. */
class PassThread {
  private readonly thread = new Worker(new URL('pass-thread.js', import.meta.url));
  private readonly waiting: { resolve: (answer: ThreadAnswer) => void; reject: (error: Error) => void }[] =
    [];
  busy = true;

  constructor() {
    this.thread.on('message', (answer: ThreadAnswer) => {
      this.waiting.shift()?.resolve(answer);
      // An idle thread keeps nothing alive.
      if (this.waiting.length === 0) this.thread.unref();
    });
    this.thread.on('error', (error: Error) => {
      if (idle.includes(this)) idle.splice(idle.indexOf(this), 1);
      this.waiting.splice(0).forEach(({ reject }) => reject(error));
    });
  }

  async ask(order: ThreadOrder): Promise<Found[]> {
    this.thread.ref();
    this.thread.postMessage(order);
    const answer = await new Promise<ThreadAnswer>((resolve, reject) =>
      this.waiting.push({ resolve, reject }),
    );
    if ('failed' in answer) throw answer.failed;
    this.busy = answer.busy;
    return answer.found;
  }
}

/** The analysers of passes, in this thread where there is little to do, else spread over threads beside it. */
export class PassThreads {
  private readonly here = resting.pop() ?? new ThreadWork();
  private readonly beside: PassThread[];
  private format!: PictureFormat;
  private analyses: readonly Analysis[] = [];
  private shared: SharedAnalysis | null = null;
  private before: PassFrame | null = null;
  private busyHere = true;

  /** `wanted`: how many threads are worth it; of one and less the work is done here. */
  constructor(wanted: number) {
    const count = wanted > 1 ? Math.min(coresInUse(), wanted) : 0;
    this.beside = Array.from({ length: count }, () => idle.pop() ?? new PassThread());
  }

  /** Whether pictures are looked at while others are read. */
  get apart(): boolean {
    return this.beside.length > 0;
  }

  /** Room for a picture that all can look at without copying; it is theirs until they are dismissed. */
  buffer(bytes: number): Uint8Array {
    return this.apart ? new Uint8Array(new SharedArrayBuffer(bytes)) : this.here.buffer(bytes);
  }

  async begin(
    direction: 1 | -1,
    format: PictureFormat,
    analyses: readonly Analysis[],
    shared: SharedAnalysis | null,
  ): Promise<void> {
    Object.assign(this, { format, analyses, shared, before: null, busyHere: true });
    const shares = analyses.map(({ share }) => share(Math.max(this.beside.length, 1)));
    const ordersFor = (thread: number): AnalyserOrder[] =>
      analyses.flatMap(({ module }, number) => {
        const order = shares[number][thread] ?? null;
        return order === null ? [] : [{ number, module, order }];
      });
    if (!this.apart) await this.here.begin(direction, ordersFor(0));
    await Promise.all(
      this.beside.map((thread, t) => {
        thread.busy = true;
        return thread.ask({ begin: direction, format, analysers: ordersFor(t) });
      }),
    );
  }

  /** Has a picture looked at; resolves when its bytes are no longer looked at, but once more beside the next. */
  async look(data: Uint8Array, frame: number): Promise<void> {
    const found = this.apart ? await this.lookBeside(data, frame) : this.lookHere(data, frame);
    for (const { number, found: one } of found) this.analyses[number].take(one, frame);
  }

  private lookHere(data: Uint8Array, frame: number): Found[] {
    const { here, shared } = this;
    const picture = asPicture(data, this.format, here.wasmAddress(data));
    const found = here.look(
      picture,
      frame,
      shared && ((before, at) => shared.look(here.kernels, before, at)),
    );
    this.busyHere = here.busyAfter(frame);
    return found;
  }

  private async lookBeside(data: Uint8Array, frame: number): Promise<Found[]> {
    const at = { picture: asPicture(data, this.format), frame };
    const { before, shared, here } = this;
    const isNext = before !== null && Math.abs(before.frame - frame) === 1;
    const told = shared && isNext ? shared.look(here.kernels, before, at) : undefined;
    this.before = at;
    return (await Promise.all(this.beside.map((t) => t.ask({ look: frame, data, shared: told })))).flat();
  }

  /** Whether any analyser has anything still to find. */
  get busy(): boolean {
    return this.apart ? this.beside.some(({ busy }) => busy) : this.busyHere;
  }

  dismiss(): void {
    this.here.rest();
    resting.push(this.here);
    for (const thread of this.beside) {
      // It takes orders one after another: the next pass may have it at once. With nothing to do it lets go of its memory.
      idle.push(thread);
      thread.ask({ begin: 1, format: this.format, analysers: [] }).catch(() => undefined);
    }
  }
}
