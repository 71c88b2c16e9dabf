import { durationOf, formatFrameRate } from '@lurn/core';
import { frameTimes, type Clip } from '@lurn/media';
import { indexWithProgress } from './follow.js';
import { withInput, type InputArguments } from './open-input.js';

/** Says what a clip is; counts its frames by decoding them. */
export const probe = (path: string, args: InputArguments & { json?: boolean }): Promise<void> =>
  withInput(path, args, (clip) => tell(clip, args.json ?? false));

async function tell(clip: Clip, json: boolean): Promise<void> {
  const index = await indexWithProgress(clip);
  const times = frameTimes(index, clip);
  const facts = {
    name: clip.name,
    width: clip.width,
    height: clip.height,
    pixelAspect: clip.pixelAspect,
    frameRate: formatFrameRate(clip.frameRate),
    frames: index.pts.length,
    seconds: durationOf(times),
    uneven: times.starts !== null,
    keyFrames: index.key.reduce((sum, k) => sum + k, 0),
    container: clip.container,
    codec: clip.codec,
    pixelFormat: clip.pixelFormat,
    bits: clip.bits,
    interlaced: clip.interlaced,
    colour: clip.colour,
    sound: clip.sound,
  };
  if (json) {
    console.log(JSON.stringify(facts, null, 2));
    return;
  }
  const rate = times.starts
    ? `unevenly, ${times.framesPerSecond.toFixed(3)} a second in the mean`
    : `at ${facts.frameRate} a second`;
  const { range, space, primaries, transfer } = clip.colour;
  const rows: [string, string][] = [
    ['Clip', facts.name],
    ['Picture', `${facts.width} × ${facts.height}, pixels ${facts.pixelAspect}`],
    ['Frames', `${facts.frames} ${rate}, ${facts.seconds.toFixed(2)} s`],
    ['Codec', `${facts.codec}, ${facts.pixelFormat}, ${facts.bits} bit`],
    ['Fields', facts.interlaced ? `interlaced, ${facts.interlaced} first` : 'progressive'],
    ['Key frames', `${facts.keyFrames}`],
    ['Colour', [range, space, primaries, transfer].map((tag) => tag ?? 'untagged').join(', ')],
    [
      'Sound',
      facts.sound.map((s) => `${s.codec}, ${s.channels} channels, ${s.sampleRate} Hz`).join('; ') || 'none',
    ],
  ];
  for (const [label, value] of rows) console.log(`${label.padEnd(12)}${value}`);
}
