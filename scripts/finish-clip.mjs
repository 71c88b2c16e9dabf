// Finishes a clip as a person would: points placed, followed both ways, held, framed.
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { evenTimes, framesPerSecond, parseFrameRate, pageLength, Samples, steady } from '@lurn/core';

const root = fileURLToPath(new URL('..', import.meta.url));
const pause = (milliseconds) => new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Where named features of a demo clip stand on a frame. */
export function places(clip, frame, names) {
  const { features } = JSON.parse(readFileSync(join(root, `demo/clips/${clip}.truth.json`), 'utf8'));
  return names.map((name) => {
    const { x, y } = features.find((f) => f.name === name).positions[frame];
    return { name: name[0].toUpperCase() + name.slice(1), frame, x, y };
  });
}

/** Places tracks, names them and follows them both ways. `call` sends a request: method, path, body. */
export async function follow(call, clipId, points, how = {}) {
  for (const { name, frame, ...place } of points) {
    const { records } = await call('POST', `/clips/${clipId}/tracks`, { ...place, frame });
    await call('PATCH', `/tracks/${records[0].id}`, { name, ...how });
    const { id } = await call('POST', `/clips/${clipId}/track-runs`, {
      trackIds: [records[0].id],
      direction: 'both',
      from: frame,
    });
    while (/running|waiting/.test((await call('GET', `/jobs/${id}`)).state)) await pause(150);
  }
}

/** Holds a clip by its tracks, with the smallest zoom that hides every bare edge. */
export async function holdAndFrame(call, clipId) {
  const clip = await call('GET', `/clips/${clipId}`);
  const tracks = clip.tracks.map(({ id }) => {
    const samples = new Samples(clip.frames);
    for (const page of clip.pages)
      if (page.id === id && page.bytes && page.page * pageLength < clip.frames)
        samples.unpackPage(page.page, Buffer.from(page.bytes, 'base64'));
    return samples;
  });
  const times = evenTimes(clip.frames, framesPerSecond(parseFrameRate(clip.frameRate)));
  const { fit } = steady(tracks, { ...clip, times }, clip.steady);
  if (fit)
    await call('PATCH', `/clips/${clipId}/steady`, {
      steady: { ...clip.steady, framing: fit.framing },
      label: 'Hide bare edges',
    });
}

/**
 * Dresses a clip whose motion has been found: a name painted onto the frame, which goes along with what is held of the scene, and
 * a place that is covered.
 */
export async function dressByScene(call, clipId, frame) {
  const carrier = { kind: 'scene' };
  const corners = (left, top, right, bottom) =>
    [
      [left, top],
      [right, top],
      [right, bottom],
      [left, bottom],
    ].map(([x, y]) => ({ x, y }));
  const covered = { parts: [{ spline: { knots: corners(1150, 338, 1216, 400) } }], featherOut: 8 };
  const layers = [
    { name: 'Clock', frame, carrier, content: { kind: 'cover' }, shape: covered },
    {
      ...{ name: 'Notice', frame, carrier },
      content: {
        ...{ kind: 'text', text: 'Withy Ferry\nNEXT BOAT 14:20', size: 46, weight: 700, x: 640, y: 300 },
        ...{ colour: [0.98, 0.93, 0.8], outline: 3, outlineColour: [0.12, 0.16, 0.2] },
      },
    },
  ];
  for (const layer of layers) await call('POST', `/clips/${clipId}/layers`, { layer });
}

/** Finds a clip's motion and composes a steady path that fits into a zoom. */
export async function steadyByScene(call, clipId, zoom = 1.08) {
  const { id } = await call('POST', `/clips/${clipId}/scene`, {});
  while (/running|waiting/.test((await call('GET', `/jobs/${id}`)).state)) await pause(150);
  const { steady: chosen } = await call('GET', `/clips/${clipId}`);
  await call('PATCH', `/clips/${clipId}/steady`, {
    steady: { ...chosen, mode: 'smooth', kind: 'composed', framing: { zoom, offsetX: 0, offsetY: 0 } },
    label: 'Kind',
  });
}
