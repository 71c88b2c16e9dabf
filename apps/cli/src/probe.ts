import { formatFrameRate, framesPerSecond } from '@lurn/core';
import { openClip } from '@lurn/media';
import { indexWithProgress } from './follow.js';

/** Says what a clip is; counts its frames by decoding them. */
export async function probe(path: string, { json }: { json?: boolean }): Promise<void> {
  const clip = await openClip(path);
  const index = await indexWithProgress(clip);
  const facts = {
    name: clip.name,
    width: clip.width,
    height: clip.height,
    pixelAspect: clip.pixelAspect,
    frameRate: formatFrameRate(clip.frameRate),
    frames: index.pts.length,
    keyFrames: index.key.reduce((sum, k) => sum + k, 0),
    container: clip.container,
    codec: clip.codec,
    pixelFormat: clip.pixelFormat,
    bits: clip.bits,
    colour: clip.colour,
    sound: clip.sound,
  };
  if (json) {
    console.log(JSON.stringify(facts, null, 2));
    return;
  }
  const rate = framesPerSecond(clip.frameRate);
  const { range, space, primaries, transfer } = clip.colour;
  const rows: [string, string][] = [
    ['Clip', facts.name],
    ['Picture', `${facts.width} × ${facts.height}, pixels ${facts.pixelAspect}`],
    ['Frames', `${facts.frames} at ${facts.frameRate} a second, ${(facts.frames / rate).toFixed(2)} s`],
    ['Codec', `${facts.codec}, ${facts.pixelFormat}, ${facts.bits} bit`],
    ['Key frames', `${facts.keyFrames}`],
    ['Colour', [range, space, primaries, transfer].map((tag) => tag ?? 'untagged').join(', ')],
    [
      'Sound',
      facts.sound.map((s) => `${s.codec}, ${s.channels} channels, ${s.sampleRate} Hz`).join('; ') || 'none',
    ],
  ];
  for (const [label, value] of rows) console.log(`${label.padEnd(12)}${value}`);
}
