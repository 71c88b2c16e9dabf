import { parentPort } from 'node:worker_threads';
import { packFindings, type HelperAnswer, type HelperOrder } from './crew.js';
import { LegWalkers } from './legs.js';
import { unpackSamples } from './packed-samples.js';
import { asPicture, type PictureFormat } from './track-picture.js';

// A thread that walks its share of the legs and answers every order, in order.
const walkers = new LegWalkers();
let format: PictureFormat;

parentPort?.on('message', (order: HelperOrder) => {
  let answer: HelperAnswer;
  if ('begin' in order) {
    format = order.format;
    const legs = order.legs.map(({ leg, subject }) => ({
      leg,
      subject: { ...subject, path: unpackSamples(subject.path) },
    }));
    walkers.begin(order.begin, legs);
    for (const { run, key, data } of order.lent) walkers.lend(run, asPicture(data, format), key);
    answer = { found: new Float64Array(0), busy: true };
  } else {
    const found = packFindings(walkers.look(asPicture(order.data, format), order.look));
    answer = { found, busy: walkers.busyAfter(order.look) };
  }
  parentPort?.postMessage(answer, [answer.found.buffer as ArrayBuffer]);
});
