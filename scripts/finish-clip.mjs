// Finishes a clip as a person would: points placed, followed both ways, held, framed.
import { openAsBlob, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { apply, evenTimes, framesPerSecond, parseFrameRate, pageLength, Samples, steady } from '@lurn/core';

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

const truthOf = (clip) => JSON.parse(readFileSync(join(root, `demo/clips/${clip}.truth.json`), 'utf8'));

/** Where points of a layer that a demo clip is drawn of stand on a frame. */
function standing(truth, layer, frame, points) {
  const matrix = truth.layers.find(({ name }) => name === layer).frameFromLayer[frame];
  return points.map(([x, y]) => apply(matrix, x, y));
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

const outline = (points) => ({ spline: { knots: points.map(({ x, y }) => ({ x, y })) } });
const rides = (trackIds, model) => ({ kind: 'tracks', trackIds, model });
const add = async (call, clipId, layer) => {
  const { records } = await call('POST', `/clips/${clipId}/layers`, { layer });
  return records[0].id;
};

/** Hangs a notice on the quay's wall, gives the ferry another name, and its wheelhouse another colour. Its first tracks are followed. */
export async function dressQuay(call, clipId) {
  const truth = truthOf('quay');
  const at = (...points) => standing(truth, 'ferry', 0, points);
  const [windows] = at([300, 66]);
  await follow(call, clipId, [{ name: 'Wheelhouse', frame: 0, ...windows }], {
    used: false,
    below: 'bridge',
  });
  const { tracks } = await call('GET', `/clips/${clipId}`);
  const ids = (...names) => tracks.flatMap(({ id, name }) => (names.includes(name) ? [id] : []));
  const [ferry, wall] = [rides(ids('Wheelhouse'), 'shift'), rides(ids('Plate', 'Crate'), 'similarity')];
  const form = new FormData();
  form.append('file', await openAsBlob(join(root, 'docs/examples/notice.png')), 'notice.png');
  const { id: asset } = await call('POST', '/assets', form);
  // Then the crane passes before it.
  const last = 280;
  const [middle] = at([256, 97]);
  const name = at([196, 84], [336, 84], [336, 112], [196, 112]);
  const house = at([172, 26], [358, 26], [352, 113], [180, 113]);
  await add(call, clipId, {
    ...{ name: 'Notice', carrier: wall },
    content: { kind: 'picture', asset, quad: [650, 812, 780, 818, 779, 904, 652, 896] },
    match: { soften: 0.7, grain: 0.01, black: 0.06, white: 0.9 },
  });
  await add(call, clipId, {
    ...{ name: 'Old name', carrier: ferry, last, content: { kind: 'cover', how: 'averaged' } },
    shape: { parts: [outline(name)], featherOut: 2 },
  });
  await add(call, clipId, {
    ...{ name: 'Wheelhouse', carrier: ferry, last },
    content: { kind: 'colour', tint: [0.2, 0.62, 0.6], tintAmount: 0.75 },
    shape: { parts: [outline(house)], featherOut: 2 },
  });
  await add(call, clipId, {
    ...{ name: 'New name', carrier: ferry, last, match: { soften: 0.6 } },
    content: {
      ...{ kind: 'text', text: 'HEATHER', size: 20, weight: 800, colour: [0.16, 0.2, 0.24] },
      ...{ x: middle.x, y: middle.y },
    },
  });
}

/** Covers the face of who carries the lantern, and shows a film on the board behind. */
export async function dressLantern(call, clipId, filmId) {
  const truth = truthOf('lantern');
  const frame = 100;
  const [face] = standing(truth, 'walker', frame, [[182, 100]]);
  // They carry layers: none of them has a say in steadying.
  const used = false;
  await follow(call, clipId, [{ name: 'Face', frame, ...face }], { used, shape: 'similarity' });
  await follow(call, clipId, places('lantern', frame, ['board', 'milestone']), { used, below: 'bridge' });
  const { tracks } = await call('GET', `/clips/${clipId}`);
  const ids = (...names) => tracks.flatMap(({ id, name }) => (names.includes(name) ? [id] : []));
  const parts = (k) => [
    outline(standing(truth, 'walker', k, body)),
    outline(standing(truth, 'lantern', k, lamp)),
  ];
  const keys = [];
  for (let k = 96; k < 240; k += 6) keys.push({ frame: k, easing: 'linear', parts: parts(k) });
  const walker = await add(call, clipId, {
    ...{ name: 'Who passes', frame, hidden: true, content: { kind: 'cover' } },
    shape: { parts: keys[0].parts, keys, featherOut: 1 },
  });
  const [board] = places('lantern', frame, ['board']);
  // A film is wider than the board is: its own shape is kept.
  const [left, top] = [board.x - 132, board.y - 26];
  const [right, bottom] = [left + 262, top + 148];
  await add(call, clipId, {
    ...{ name: 'Film on the board', frame, carrier: rides(ids('Board', 'Milestone'), 'similarity') },
    content: {
      ...{ kind: 'clip', clip: filmId, from: 0, play: 'loop' },
      quad: [left, top, right, top, right, bottom, left, bottom],
    },
    matte: { layerId: walker, keep: 'outside' },
    match: { soften: 0.6, grain: 0.01, black: 0.02, white: 0.8 },
  });
  const ring = Array.from({ length: 8 }, (_, i) => [
    178 + 38 * Math.cos((i * Math.PI) / 4),
    112 + 42 * Math.sin((i * Math.PI) / 4),
  ]);
  await add(call, clipId, {
    ...{ name: 'Face', frame, carrier: rides(ids('Face'), 'similarity') },
    content: { kind: 'cover', how: 'mosaic', strength: 18 },
    shape: { parts: [outline(standing(truth, 'walker', frame, ring))], featherOut: 6 },
  });
}

/** About who walks and about the lantern, pixels of the layers that they are drawn on. */
const body = [
  ...[
    [146, 34],
    [208, 34],
    [236, 82],
    [210, 140],
    [226, 192],
    [258, 236],
    [318, 248],
    [318, 286],
    [244, 276],
  ],
  ...[
    [238, 420],
    [240, 580],
    [100, 590],
    [100, 420],
    [108, 160],
    [140, 140],
    [120, 84],
  ],
];
const lamp = [
  [24, 64],
  [58, 16],
  [102, 16],
  [136, 64],
  [136, 200],
  [24, 200],
];

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
