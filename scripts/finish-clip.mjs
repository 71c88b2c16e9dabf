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

/** Covers the face of who carries the lantern. */
export async function dressLantern(call, clipId) {
  const truth = truthOf('lantern');
  const frame = 100;
  const [face] = standing(truth, 'walker', frame, [[182, 100]]);
  // They carry layers: none of them has a say in steadying.
  const used = false;
  await follow(call, clipId, [{ name: 'Face', frame, ...face }], { used, shape: 'similarity' });
  const { tracks } = await call('GET', `/clips/${clipId}`);
  const ids = (...names) => tracks.flatMap(({ id, name }) => (names.includes(name) ? [id] : []));
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

/** Draws a region about the screen by the ticket window and follows it both ways. */
export async function followScreen(call, clipId, frame = 150) {
  const corners = places('window', frame, ['upper left', 'upper right', 'lower right', 'lower left']);
  const quad = corners.map(({ x, y }) => ({ x, y }));
  const middle = { x: (quad[0].x + quad[2].x) / 2, y: (quad[0].y + quad[2].y) / 2 };
  // Drawn loosely: out to the frame that holds the glass, where there is more to see.
  const grown = quad.map(({ x, y }) => ({
    x: middle.x + 1.09 * (x - middle.x),
    y: middle.y + 1.14 * (y - middle.y),
  }));
  const { records } = await call('POST', `/clips/${clipId}/regions`, {
    ...{ frame, name: 'Screen', quad },
    splines: [{ knots: grown.map((corner) => ({ ...corner, inX: 0, inY: 0, outX: 0, outY: 0 })) }],
    settings: { below: 'bridge' },
  });
  const trackId = records.find(({ kind }) => kind === 'track').id;
  const run = { trackIds: [trackId], direction: 'both', from: frame };
  const { id } = await call('POST', `/clips/${clipId}/track-runs`, run);
  while (/running|waiting/.test((await call('GET', `/jobs/${id}`)).state)) await pause(150);
  return { trackId, quad };
}

/** Takes the scratch out of the screen by the ticket window and shows a film on it: what the glass mirrors stays, and who passes by passes in front. */
export async function dressWindow(call, clipId, filmId) {
  const frame = 150;
  const truth = truthOf('window');
  const { trackId, quad } = await followScreen(call, clipId, frame);
  // Healed with what is beside it on the glass.
  const scratch = truth.outlines.find(({ name }) => name === 'scratch').points;
  const along = standing(truth, 'screen', frame, scratch);
  const [beside] = standing(truth, 'screen', frame, [[scratch[0][0] - 30, scratch[0][1] + 32]]);
  await add(call, clipId, {
    ...{ name: 'Scratch taken out', frame, carrier: rides([trackId], 'perspective') },
    content: {
      kind: 'repair',
      strokes: [
        {
          ...{ how: 'heal', width: 18, from: frame, aside: [beside.x - along[0].x, beside.y - along[0].y] },
          points: along.flatMap(({ x, y }) => [x, y, 1]),
        },
      ],
    },
  });
  const keys = [];
  for (let k = 50; k < 120; k += 4)
    keys.push({ frame: k, easing: 'linear', parts: [outline(standing(truth, 'passer-by', k, body))] });
  const walker = await add(call, clipId, {
    ...{ name: 'Who passes', frame: 50, first: 50, last: 119, hidden: true, content: { kind: 'cover' } },
    shape: { parts: keys[0].parts, keys, featherOut: 2 },
  });
  await add(call, clipId, {
    ...{ name: 'Film on the screen', frame, carrier: rides([trackId], 'perspective'), blend: 'screen' },
    content: {
      ...{ kind: 'clip', clip: filmId, from: 0, play: 'loop' },
      quad: quad.flatMap(({ x, y }) => [x, y]),
    },
    matte: { layerId: walker, keep: 'outside' },
    match: { soften: 0.6, grain: 0.01 },
  });
}

/** About who walks by, pixels of the pictures that they are drawn in. */
const body = [
  ...[
    [120, 30],
    [234, 30],
    [240, 90],
    [214, 146],
    [226, 192],
    [258, 236],
    [322, 244],
    [322, 290],
    [244, 290],
  ],
  ...[
    [250, 420],
    [300, 590],
    [60, 590],
    [96, 420],
    [100, 160],
    [136, 146],
    [116, 90],
  ],
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
