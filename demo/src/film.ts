import { once } from 'node:events';
import { mkdir, rename, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { formatFrameRate } from '@lurn/core';
import { startFfmpeg } from '@lurn/media';
import { filmHeight, filmWidth } from './camera.js';
import { Lens } from './lens.js';
import type { Scene } from './scene.js';
import { tellTruth } from './truth.js';

const sampleRate = 48000;

/** Films a scene into `folder`: NAME.mp4 and NAME.truth.json. `onFrame` hears how many frames are done. */
export async function film(scene: Scene, folder: string, onFrame: (done: number) => void): Promise<void> {
  await mkdir(folder, { recursive: true });
  const movie = join(folder, `${scene.name}.mp4`);
  const partial = join(folder, `${scene.name}.partial.mp4`);
  const wave = join(folder, `${scene.name}.partial.wav`);
  await writeFile(wave, record(scene));
  const lens = new Lens(scene);
  const rate = formatFrameRate(scene.frameRate);
  const tags = [
    '-color_range',
    'tv',
    '-colorspace',
    'bt709',
    '-color_primaries',
    'bt709',
    '-color_trc',
    'bt709',
  ];
  const encoder = startFfmpeg([
    ...[
      '-f',
      'rawvideo',
      '-pix_fmt',
      'yuv420p',
      '-s',
      `${filmWidth}x${filmHeight}`,
      '-framerate',
      rate,
      '-i',
      'pipe:0',
    ],
    ...['-i', wave, '-c:v', 'libx264', '-preset', 'veryfast', '-crf', '18', '-g', '60', ...tags],
    ...['-c:a', 'aac', '-b:a', '128k', '-metadata', `title=The Withy Ferry: ${scene.title}`],
    ...['-movflags', '+faststart', '-y', partial],
  ]);
  const send = async (part: Uint8Array): Promise<void> => {
    // The next frame overwrites the kernel's picture while the pipe may still hold this one.
    if (!encoder.process.stdin.write(part.slice()))
      await Promise.race([once(encoder.process.stdin, 'drain'), encoder.done]);
  };
  for (let frame = 0; frame < scene.frames; frame++) {
    for (const part of lens.expose(frame)) await send(part);
    onFrame(frame + 1);
  }
  encoder.process.stdin.end();
  await encoder.done;
  await rm(wave);
  await writeFile(join(folder, `${scene.name}.truth.json`), JSON.stringify(tellTruth(scene)));
  await rename(partial, movie);
}

/** The scene's sound as a 16-bit stereo wave file. */
function record(scene: Scene): Buffer {
  const { numerator, denominator } = scene.frameRate;
  const count = Math.round((scene.frames * denominator * sampleRate) / numerator);
  const sound = scene.sound();
  const data = Buffer.alloc(44 + count * 4);
  data.write('RIFF', 0);
  data.writeUInt32LE(36 + count * 4, 4);
  data.write('WAVEfmt ', 8);
  data.writeUInt32LE(16, 16);
  data.writeUInt16LE(1, 20);
  data.writeUInt16LE(2, 22);
  data.writeUInt32LE(sampleRate, 24);
  data.writeUInt32LE(sampleRate * 4, 28);
  data.writeUInt16LE(4, 32);
  data.writeUInt16LE(16, 34);
  data.write('data', 36);
  data.writeUInt32LE(count * 4, 40);
  for (let i = 0; i < count; i++) {
    sound(i / sampleRate).forEach((level, side) => {
      data.writeInt16LE(Math.round(Math.min(Math.max(level, -1), 1) * 32767), 44 + i * 4 + side * 2);
    });
  }
  return data;
}
