import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { isMainThread, parentPort, Worker, workerData } from 'node:worker_threads';
import { film } from './film.js';
import { scenes } from './scenes.js';

// Films the scenes that are not there yet: node demo/dist/main.js FOLDER [NAME …]. One thread a scene.
if (isMainThread) {
  const [folder = 'demo/clips', ...names] = process.argv.slice(2);
  const wanted = names.length > 0 ? names : Object.keys(scenes);
  const missing = wanted.filter((name) => !existsSync(join(folder, `${name}.mp4`)));
  await Promise.all(missing.map((name) => filmInThread(name, folder)));
} else {
  const { name, folder } = workerData as { name: string; folder: string };
  await film(scenes[name](), folder, (done) => parentPort?.postMessage(done));
}

function filmInThread(name: string, folder: string): Promise<void> {
  return new Promise((resolve, reject) => {
    const worker = new Worker(fileURLToPath(import.meta.url), { workerData: { name, folder } });
    worker.on('message', (done: number) => {
      if (done % 60 === 0) console.log(`Filming ${name}: ${done} frames`);
    });
    worker.on('error', reject);
    worker.on('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`Filming ${name} ended with code ${code}.`)),
    );
  });
}
