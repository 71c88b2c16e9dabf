import { parentPort } from 'node:worker_threads';
import { asPicture, type PictureFormat } from './pass-picture.js';
import { ThreadWork } from './thread-work.js';
import type { ThreadAnswer, ThreadOrder } from './threads.js';

// A thread that has its share of the analysers look at pictures, and answers every order, in order.
const work = new ThreadWork();
let format: PictureFormat;
let last = Promise.resolve();

parentPort?.on('message', (order: ThreadOrder) => {
  last = last.then(() => carryOut(order));
});

async function carryOut(order: ThreadOrder): Promise<void> {
  let answer: ThreadAnswer;
  try {
    if ('begin' in order) {
      format = order.format;
      await work.begin(order.begin, order.analysers);
      answer = { found: [], busy: true };
    } else {
      const { shared } = order;
      const ask = shared === undefined ? null : () => shared;
      const found = work.look(asPicture(order.data, format), order.look, ask);
      answer = { found, busy: work.busyAfter(order.look) };
    }
  } catch (error) {
    answer = { failed: error as Error };
  }
  parentPort?.postMessage(answer, 'found' in answer ? buffersIn(answer.found) : []);
}

/** What can be handed over without a copy. */
const buffersIn = (found: readonly { found: unknown }[]): ArrayBuffer[] =>
  found.flatMap(({ found: one }) =>
    ArrayBuffer.isView(one) && one.buffer instanceof ArrayBuffer ? [one.buffer] : [],
  );
