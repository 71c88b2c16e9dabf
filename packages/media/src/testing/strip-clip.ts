import { once } from 'node:events';
import { startFfmpeg } from '../process.js';

/** A clip made for tests: every frame carries its number as a strip of black and white blocks. */
export interface StripClip {
  path: string;
  frames: number;
  width?: number;
  height?: number;
  rate?: string;
  /** Seconds of a 440 Hz tone. */
  sound?: number;
  /** What ffmpeg is told about the output, after the inputs. */
  encode?: string[];
  /** Where the picture's texture has moved to, in pixels; standing still when left out. */
  position?: (frame: number) => { x: number; y: number };
  /** On which frames something grey hides the texture. */
  covered?: (frame: number) => boolean;
}

// Looked up once: in the test runner every look at a global costs.
const { sin, cos, floor, round } = Math;

export const stripBits = 16;
export const blockSize = 16;

/** A texture without a second place that looks alike, grey levels about 128. */
function texture(x: number, y: number): number {
  return (
    128 +
    34 * sin(x * 0.21 + 1.3 * sin(y * 0.037)) +
    30 * sin(y * 0.17 + 1.1 * sin(x * 0.043)) +
    26 * sin((x + y) * 0.083 + 0.7) * cos((x - 2 * y) * 0.031)
  );
}

/** Writes the clip; lossless enough at the default settings for strip and texture to survive. */
export async function makeStripClip(clip: StripClip): Promise<void> {
  const { path, frames, width = 320, height = 180, rate = '25', sound = 0 } = clip;
  const tone =
    sound > 0 ? ['-f', 'lavfi', '-i', `sine=frequency=440:sample_rate=48000:duration=${sound}`] : [];
  const encode = clip.encode ?? [
    ...['-c:v', 'libx264', '-preset', 'veryfast', '-crf', '12', '-g', '20', '-pix_fmt', 'yuv420p'],
    ...['-c:a', 'aac'],
  ];
  const tool = startFfmpeg([
    ...['-f', 'rawvideo', '-pix_fmt', 'gray', '-s', `${width}x${height}`, '-framerate', rate, '-i', 'pipe:0'],
    ...tone,
    ...['-map', '0:v', ...(sound > 0 ? ['-map', '1:a'] : []), ...encode, '-y', path],
  ]);
  const still = clip.position ? null : ground(width, height, 0, 0);
  for (let frame = 0; frame < frames; frame++) {
    const { x: left, y: top } = clip.position?.(frame) ?? { x: 0, y: 0 };
    const picture = clip.covered?.(frame)
      ? Buffer.alloc(width * height, 110)
      : Buffer.from(still ?? ground(width, height, left, top));
    for (let x = 0; x < width; x++) picture[x] = stripLevel(frame, floor(x / blockSize));
    for (let y = 1; y < blockSize; y++) picture.copyWithin(y * width, 0, width);
    if (!tool.process.stdin.write(picture))
      await Promise.race([once(tool.process.stdin, 'drain'), tool.done]);
  }
  tool.process.stdin.end();
  await tool.done;
}

function ground(width: number, height: number, left: number, top: number): Buffer {
  const picture = Buffer.alloc(width * height);
  for (let y = blockSize; y < height; y++)
    for (let x = 0; x < width; x++) picture[y * width + x] = round(texture(x + 0.5 - left, y + 0.5 - top));
  return picture;
}

const stripLevel = (frame: number, block: number): number =>
  block >= stripBits ? 128 : (frame >> block) & 1 ? 235 : 16;

/** The number in a frame's strip; `width` of the plane read, whatever its scale against the original's. */
export function readStrip(luma: Uint8Array, width: number, originalWidth: number): number {
  const scale = width / originalWidth;
  let number = 0;
  for (let block = 0; block < stripBits; block++) {
    const x = floor((block + 0.5) * blockSize * scale);
    const y = floor((blockSize / 2) * scale);
    if (luma[y * width + x] > 125) number |= 1 << block;
  }
  return number;
}
