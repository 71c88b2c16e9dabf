import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { indexClip, openClip, readFrames, startFfmpeg } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { lurn } from './testing/lurn.js';

const frames = 40;
const position = (k: number) => ({ x: 0.9 * k, y: 5 * Math.sin(k / 5) });

let folder: string;
let clip: string;

beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-cli-'));
  clip = join(folder, 'crossing.mp4');
  await makeStripClip({ path: clip, frames, rate: '30000/1001', position, sound: 1.3 });
});
afterAll(() => rm(folder, { recursive: true, force: true }));

test('probe counts frames and tells the exact rate', async () => {
  const { code, out } = await lurn('probe', clip, '--json');
  expect(code).toBe(0);
  expect(JSON.parse(out)).toMatchObject({
    name: 'crossing.mp4',
    width: 320,
    height: 180,
    frameRate: '30000/1001',
    frames,
  });
  expect((await lurn('probe', clip)).out).toMatch(/Frames +40 at 30000\/1001/);
});

test('track goes both ways from the frame given, and writes JSON', async () => {
  const out = join(folder, 'tracks.json');
  const start = { x: 150 + position(20).x, y: 100 + position(20).y };
  const { code, err } = await lurn(
    'track',
    clip,
    '--point',
    `${start.x},${start.y}@20=mark`,
    '--search',
    '81',
    '--out',
    out,
  );
  expect(code).toBe(0);
  // Piped, progress comes in plain lines.
  expect(err).toMatch(/Tracking: \d+ of \d+ frames \(\d+ %\)/);
  const file = JSON.parse(await readFile(out, 'utf8'));
  expect(file).toMatchObject({
    format: 'lurn-tracks',
    version: 1,
    clip: { frames, frameRate: '30000/1001' },
  });
  const [{ name, samples }] = file.tracks;
  expect(name).toBe('mark');
  expect(samples).toHaveLength(frames);
  for (const { frame, x, y, state } of samples) {
    expect(Math.hypot(x - 150 - position(frame).x, y - 100 - position(frame).y)).toBeLessThan(0.3);
    expect(state).toBe(frame === 20 ? 'placed' : 'tracked');
  }
});

test('track keeps to a range and writes CSV', async () => {
  const out = join(folder, 'tracks.csv');
  const { code } = await lurn(
    'track',
    clip,
    '--point',
    '159,104@10',
    '--search',
    '81',
    '--range',
    '8:15',
    '--out',
    out,
  );
  expect(code).toBe(0);
  const lines = (await readFile(out, 'utf8')).trim().split('\r\n');
  expect(lines).toHaveLength(1 + 8);
  expect(lines[1]).toMatch(/^Point 1,8,/);
});

test('by hand the keys are joined by a curve, and nothing is followed', async () => {
  const out = join(folder, 'by-hand.json');
  const keys = ['--point', '100,80@4=mark', '--key', 'mark@14=130,60', '--key', 'mark@24=100,40'];
  const read = async (curve: string) => {
    const { code } = await lurn('track', clip, ...keys, '--by-hand', curve, '--out', out);
    expect(code).toBe(0);
    const { samples } = JSON.parse(await readFile(out, 'utf8')).tracks[0];
    return samples as { frame: number; x: number; y: number; state: string }[];
  };
  const straight = await read('linear');
  expect(straight.map(({ frame }) => frame)).toEqual(Array.from({ length: 21 }, (_, i) => 4 + i));
  expect(straight.find(({ frame }) => frame === 9)).toMatchObject({ x: 115, y: 70, state: 'bridged' });
  expect(straight.filter(({ state }) => state === 'placed').map(({ frame }) => frame)).toEqual([4, 14, 24]);
  // A curve swings out where the straight lines turn a corner.
  const smooth = await read('smooth');
  expect(smooth.find(({ frame }) => frame === 13)?.x).toBeGreaterThan(127.5);
  const alone = await lurn('track', clip, '--point', '100,80@4=mark', '--by-hand', 'linear', '--out', out);
  expect(alone).toMatchObject({ code: 2, err: expect.stringContaining('"mark" has one key') });
});

test('steady writes movie and motion from tracks made before', async () => {
  const movie = join(folder, 'held.mp4');
  const motion = join(folder, 'motion.json');
  const { code, out } = await lurn(
    ...['steady', clip, '--tracks', join(folder, 'tracks.json'), '--reference', '20', '--channels', 'x,y'],
    ...['--out', movie, '--motion', motion],
  );
  expect(code).toBe(0);
  expect(out).toMatch(/Zoom 1\d\d\.\d\d %, forced by frame \d+, (left|top|right|bottom)/);
  const made = await openClip(movie);
  expect((await indexClip(made)).pts).toHaveLength(frames);
  expect(made.sound).toHaveLength(1);
  const file = JSON.parse(await readFile(motion, 'utf8'));
  expect(file).toMatchObject({ format: 'lurn-motion', version: 1, referenceFrame: 20, model: 'translation' });
  expect(file.frames[20].frameFromReference).toEqual([1, 0, 0, 0, 1, 0, 0, 0, 1]);
  expect(file.frames[39].frameFromReference[2]).toBeCloseTo(position(39).x - position(20).x, 0);
});

test('from a key on something else is followed, and the path stays the point’s', async () => {
  const file = join(folder, 'aside.json');
  // The point leaves the picture on the right; what is followed instead stays in it.
  const at = (k: number) => ({ x: 295 + position(k).x, y: 100 + position(k).y });
  const key = `mark@10=${at(10).x},${at(10).y}/${at(10).x - 140},${at(10).y - 10}`;
  const { code } = await lurn('track', clip, '--point', '295,100@0=mark', '--key', key, '--out', file);
  expect(code).toBe(0);
  const [track] = JSON.parse(await readFile(file, 'utf8')).tracks;
  for (const k of [5, 20, 38]) {
    const sample = track.samples.find((s: { frame: number }) => s.frame === k);
    expect(Math.hypot(sample.x - at(k).x, sample.y - at(k).y)).toBeLessThan(0.2);
  }
  expect(at(38).x).toBeGreaterThan(320);
});

test('points are suggested, or suggested and followed; further keys are kept', async () => {
  const alone = await lurn('track', clip, '--suggest', '3');
  expect(alone.code).toBe(0);
  const [, x, y] =
    /^([\d.]+),([\d.]+)@0 {2}score 0\.\d\d|^([\d.]+),([\d.]+)@0 {2}score 1\.00/m.exec(alone.out) ?? [];
  expect(alone.out.trim().split('\n').length).toBeLessThanOrEqual(3);
  expect(Number(x ?? 1) * Number(y ?? 1)).toBeGreaterThan(0);
  const file = join(folder, 'keys.json');
  const { code } = await lurn(
    ...[
      'track',
      clip,
      '--point',
      '150,100@0=mark',
      '--key',
      `mark@30=${150 + position(30).x},${100 + position(30).y}`,
    ],
    ...[
      '--shape',
      'affine',
      '--channel',
      'green',
      '--filter',
      'soften',
      '--below',
      'mark',
      '--threshold',
      '0.3',
    ],
    ...['--out', file],
  );
  expect(code).toBe(0);
  const [track] = JSON.parse(await readFile(file, 'utf8')).tracks;
  const placed = track.samples.filter((s: { state: string }) => s.state === 'placed');
  expect(placed.map((s: { frame: number }) => s.frame)).toEqual([0, 30]);
  expect(track.samples[20].x).toBeCloseTo(150 + position(20).x, 0);
});

test.each([
  [['--key', 'mark@30=1,2'], /no point "mark"/],
  [['--key', 'mark'], /is not a key/],
  [['--shape', 'bendy'], /shape/],
  [['--threshold', '2'], /threshold/i],
])('%j is refused with a sentence', async (more, said) => {
  const { code, err } = await lurn(
    'track',
    clip,
    '--point',
    '150,100@0',
    ...more,
    '--out',
    join(folder, 'no.json'),
  );
  expect(code).toBe(2);
  expect(err).toMatch(said);
});

test('a lost track is said, and shows in the exit code', async () => {
  const gone = join(folder, 'gone.mp4');
  await makeStripClip({ path: gone, frames: 20, covered: (k) => k >= 12 });
  const { code, err } = await lurn('track', gone, '--point', '150,100@0', '--out', join(folder, 'gone.json'));
  expect(code).toBe(3);
  expect(err).toMatch(/"Point 1" was lost on frames 12 to 19: another shot begins\./);
});

test.each([
  [['track', 'CLIP', '--point', 'here', '--out', 'a.json'], 2, /"here" is not a point/],
  [['track', 'CLIP', '--out', 'a.json'], 2, /point/],
  [
    ['track', 'CLIP', '--point', '1,1@900', '--out', 'a.json'],
    2,
    /beyond the clip's end; its frames are 0 to 39/,
  ],
  [['track', 'CLIP', '--point', '1,1@0', '--out', 'a.txt'], 2, /must end in .json or .csv/],
  [['steady', 'CLIP', '--out', 'a.mp4'], 2, /--tracks FILE or one or more --point/],
  [['steady', 'CLIP', '--point', '1,1@0', '--out', 'a.mp4', '--zoom', 'big'], 2, /Zoom must be/],
  [['dance'], 2, /unknown command/],
  [['probe', '/nowhere/clip.mp4'], 1, /cannot be opened: No such file/],
])('%j ends with %d and says why', async (args, expected, reason) => {
  const { code, err } = await lurn(...args.map((arg) => (arg === 'CLIP' ? clip : arg)));
  expect(err).toMatch(reason);
  expect(code).toBe(expected);
});

test('a track file of another clip is refused', async () => {
  const path = join(folder, 'other.json');
  await writeFile(path, '{"format":"lurn-tracks","version":1,"clip":{"width":640,"height":360},"tracks":[]}');
  const { code, err } = await lurn('steady', clip, '--tracks', path, '--out', join(folder, 'never.mp4'));
  expect(err).toMatch(/640×360 pixels; this clip has 320×180/);
  expect(code).toBe(1);
});

test('help teaches', async () => {
  const { code, out } = await lurn('steady', '--help');
  expect(code).toBe(0);
  for (const word of ['--mode', '--zoom', 'no bare edge', 'Exit codes']) expect(out).toContain(word);
});

test('a folder of pictures is a clip at the rate asked for', async () => {
  const shots = join(folder, 'shots');
  await mkdir(shots);
  await startFfmpeg(['-i', clip, '-frames:v', '12', '-y', join(shots, 'shot_%d.png')]).done;
  expect(await lurn('probe', shots)).toMatchObject({ code: 2, err: expect.stringMatching(/needs --rate/) });
  expect(await lurn('probe', shots, '--rate', 'often')).toMatchObject({ code: 2 });
  const { out } = await lurn('probe', shots, '--rate', '24000/1001', '--json');
  expect(JSON.parse(out)).toMatchObject({ name: 'shots', frames: 12, frameRate: '24000/1001', bits: 8 });
  await rm(join(shots, 'shot_7.png'));
  const { err } = await lurn('probe', shots, '--rate', '12');
  expect(err).toMatch(/1 picture is missing from the sequence, first after "shot_6.png"/);
});

test('fields are frames of their own where that is asked for', async () => {
  const path = join(folder, 'fields.ts');
  const encode = ['-c:v', 'mpeg2video', '-q:v', '2', '-flags', '+ildct+ilme', '-top', '1'];
  await makeStripClip({ path, frames: 10, encode: [...encode, '-pix_fmt', 'yuv420p'] });
  expect((await lurn('probe', path)).out).toMatch(/Fields +interlaced, top first/);
  const { out } = await lurn('probe', path, '--as-fields', '--json');
  expect(JSON.parse(out)).toMatchObject({ frames: 20, frameRate: '50/1', interlaced: 'top' });
  expect(await lurn('probe', clip, '--as-fields')).toMatchObject({ code: 2 });
});

test('tracks come in from a strange table, are joined and smoothed; a wrong line is told', async () => {
  const table = join(folder, 'table.csv');
  const out = join(folder, 'joined.json');
  // Per cent of 320×180, y upwards, counted from 1; two pieces of one feature that overlap, half a pixel apart.
  const row = (name: string, k: number, off = 0): string =>
    [name, k + 1, ((100 + k + off) / 320) * 100, ((180 - 90 - off) / 180) * 100].join(';');
  const rows = [
    ...Array.from({ length: 20 }, (_, k) => row('early', k)),
    ...Array.from({ length: 24 }, (_, k) => row('late', 16 + k, 0.5)),
    'late;99;50;50',
  ];
  await writeFile(table, `wer;Nr;quer;hoch\n${rows.join('\n')}\n`);
  const args = [
    'tracks',
    clip,
    '--in',
    table,
    '--out',
    out,
    '--units',
    'percent',
    '--y-up',
    '--first-frame',
    '1',
  ];
  const { code, err } = await lurn(
    ...args,
    ...['--columns', 'track=wer,frame=Nr,x=quer,y=4', '--join', 'early,late', '--smooth', '1'],
  );
  expect([code, err.trim()]).toEqual([
    3,
    'Line 46 was left out: Frame 98 is outside the clip; its frames are 0 to 39.',
  ]);
  const { tracks } = JSON.parse(await readFile(out, 'utf8')) as {
    tracks: { name: string; samples: { frame: number; x: number; y: number }[] }[];
  };
  expect(tracks.map(({ name, samples }) => [name, samples.length])).toEqual([['early', 40]]);
  for (const { frame, x, y } of tracks[0].samples) {
    expect(Math.abs(x - (100 + frame))).toBeLessThan(1e-3);
    expect(Math.abs(y - 90)).toBeLessThan(1e-3);
  }
  const refused = await lurn('tracks', clip, '--in', table, '--out', out);
  expect([refused.code, refused.err.trim()]).toEqual([1, `${table}: Say which column holds the frame.`]);
  expect((await lurn('tracks', clip, '--in', table, '--out', out, '--columns', 'frame')).code).toBe(2);
});

test('a composed path is steadier than the even one at the zoom that it would need; strengths are taken', async () => {
  const steadied = async (name: string, ...how: string[]) => {
    const motion = join(folder, `${name}.json`);
    const { code, out, err } = await lurn(
      ...[
        'steady',
        clip,
        '--point',
        '150,100@0=mark',
        '--search',
        '81',
        '--mode',
        'smooth',
        '--smooth',
        '0.3',
      ],
      ...[...how, '--motion', motion, '--out', join(folder, `${name}.mp4`)],
    );
    if (code !== 0) return { code, out, err, jolt: NaN };
    const { frames: rows } = JSON.parse(await readFile(motion, 'utf8')) as {
      frames: { outputFromFrame: number[]; frameFromReference: number[] }[];
    };
    // The point's place as it is seen; it only shifts.
    const seen = rows.map(({ outputFromFrame: p, frameFromReference: m }) => p[0] * m[2] + p[2]);
    const bends = seen.slice(2).map((v, i) => v - 2 * seen[i + 1] + seen[i]);
    return { code, out, err, jolt: Math.sqrt(bends.reduce((sum, v) => sum + v * v, 0) / bends.length) };
  };
  const even = await steadied('even', '--kind', 'even');
  const composed = await steadied('composed', '--kind', 'composed');
  expect([even.code, composed.code]).toEqual([0, 0]);
  // The same zoom is told for both: the one that even needs.
  expect(composed.out.split(' %')[0]).toBe(even.out.split(' %')[0]);
  expect(composed.jolt).toBeLessThan(even.jolt);
  const told = await lurn('report', clip, '--motion', join(folder, 'composed.json'), '--json');
  const { shakeBefore, shakeAfter } = JSON.parse(told.out) as { shakeBefore: number; shakeAfter: number };
  expect([told.code, shakeAfter < 0.5 * shakeBefore]).toEqual([0, true]);
  const none = await steadied('none', '--strength', 'x=0,y=0');
  expect(none.out).toContain('Zoom 100.00 %');
  const wrong = await steadied('wrong', '--strength', 'x=2');
  expect([wrong.code, wrong.err]).toEqual([2, expect.stringContaining('"x=2" is no strength')]);
});

test('the whole picture’s motion is found without a point: groups told, written, held', async () => {
  const [groups, motion] = [join(folder, 'groups.json'), join(folder, 'scene-motion.json')];
  const found = await lurn('track', clip, '--scene', '--json', '--out', groups);
  expect(found.code).toBe(0);
  const { shots } = JSON.parse(found.out);
  expect(shots).toHaveLength(1);
  expect(shots[0].groups[0]).toMatchObject({ number: 1, slide: 0, proposed: 'shift' });
  expect(shots[0].groups[0].residual).toBeLessThan(0.25);
  const file = JSON.parse(await readFile(groups, 'utf8'));
  expect(file).toMatchObject({ format: 'lurn-scene', version: 1, clip: { frames } });
  const { frames: rows } = file.shots[0].groups[0];
  for (const { frame, frameFromFirst } of rows as { frame: number; frameFromFirst: number[] }[]) {
    const [dx, dy] = [frameFromFirst[2], frameFromFirst[5]];
    const { x, y } = position(frame);
    expect(Math.hypot(dx - x, dy - y)).toBeLessThan(0.2);
  }
  const held = await lurn(
    ...['steady', clip, '--scene', '--model', 'similarity', '--motion', motion],
    ...['--out', join(folder, 'scene.mp4')],
  );
  expect(held.code).toBe(0);
  expect(held.out).toMatch(/^Group 1 +\d+\.\d % of the picture, slides 0\.0 px, shift, 0\.\d\d px RMS/);
  const { frames: placed, model } = JSON.parse(await readFile(motion, 'utf8'));
  expect(model).toBe('similarity');
  expect(placed).toHaveLength(frames);
  const none = await lurn('steady', clip, '--scene', '--group', '9', '--out', join(folder, 'no.mp4'));
  expect([none.code, none.err]).toEqual([2, expect.stringContaining('There is no group 9; one was found.')]);
});

test('a clip with nothing to follow says what can be done; one frame says that it has none', async () => {
  const plain = join(folder, 'plain.mp4');
  await startFfmpeg(['-f', 'lavfi', '-i', 'color=gray:s=320x180:r=25:d=0.5', '-y', plain]).done;
  const { code, err } = await lurn('steady', plain, '--scene', '--out', join(folder, 'no.mp4'));
  expect(code).toBe(1);
  expect(err).toContain('Place a point on something with contrast, or steady it by hand.');
  const alone = join(folder, 'one.mp4');
  await makeStripClip({ path: alone, frames: 1 });
  const still = await lurn('track', alone, '--scene');
  expect([still.code, still.err]).toEqual([1, expect.stringContaining('has one frame to look at')]);
});

test('a recipe is followed anew; of another size it is refused', async () => {
  const path = join(folder, 'recipe.json');
  const steady = {
    ...{ mode: 'hold', kind: 'even', model: 'auto', smoothSeconds: 1, referenceFrame: 0 },
    channels: { x: true, y: true, rotation: true, scale: true },
    strength: { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 },
    range: { first: 0, last: 99 },
    framing: { zoom: 1.1, offsetX: 0, offsetY: 0 },
    spans: [],
    keys: [{ frame: 10, x: 3, y: 0, rotation: 0, zoom: 1, easing: 'ease' }],
  };
  const box = (width: number) => ({ width, height: width });
  const track = {
    ...{ name: 'mark', used: true, template: box(41), search: box(81), shape: 'similarity' },
    ...{ channel: 'luma', filter: 'none', fields: 'both', below: 'stop', threshold: 0.5, longestGap: 25 },
    offsets: [],
  };
  const recipe = {
    ...{ format: 'lurn-recipe', version: 1, clip: { name: 'other', width: 320, height: 180, frames: 100 } },
    records: [
      { kind: 'steady', id: 's', view: steady },
      { kind: 'track', id: 't', view: track },
    ],
    samples: { t: { keys: [{ frame: 0, x: 150, y: 100, rotation: 0, scale: 1 }] } },
  };
  await writeFile(path, JSON.stringify(recipe));
  const [out, motion] = [join(folder, 'recipe.mp4'), join(folder, 'recipe-motion.json')];
  const done = await lurn('steady', clip, '--recipe', path, '--motion', motion, '--out', out);
  expect([done.code, done.out]).toEqual([0, expect.stringContaining(`${frames} frames written`)]);
  const { frames: placed } = JSON.parse(await readFile(motion, 'utf8'));
  for (const { frame, outputFromFrame: m } of placed as { frame: number; outputFromFrame: number[] }[]) {
    // Held at the key by hand, three pixels to the right, then zoomed about the middle.
    const { x, y } = position(frame);
    const at = {
      x: m[0] * (150 + x) + m[1] * (100 + y) + m[2],
      y: m[3] * (150 + x) + m[4] * (100 + y) + m[5],
    };
    expect(Math.hypot(at.x - (160 + 1.1 * (153 - 160)), at.y - (90 + 1.1 * 10))).toBeLessThan(0.4);
  }
  await writeFile(path, JSON.stringify({ ...recipe, clip: { ...recipe.clip, width: 640 } }));
  const refused = await lurn('steady', clip, '--recipe', path, '--out', out);
  expect([refused.code, refused.err]).toEqual([1, expect.stringContaining('made for a clip of 640×180')]);
});

test('a recipe dresses a clip: what it rides on is followed anew; what is wrong names the layer', async () => {
  const [path, out] = [join(folder, 'dress.json'), join(folder, 'dressed.mkv')];
  const box = (width: number) => ({ width, height: width });
  const track = {
    ...{ name: 'mark', used: false, template: box(41), search: box(81), shape: 'similarity' },
    ...{ channel: 'luma', filter: 'none', fields: 'both', below: 'stop', threshold: 0.5, longestGap: 25 },
    offsets: [],
  };
  const corners = [
    [200, 20],
    [240, 20],
    [240, 60],
    [200, 60],
  ].map(([x, y]) => ({ x, y }));
  const layer = {
    name: 'Number',
    content: { kind: 'cover', how: 'plain', colour: [1, 1, 1] },
    shape: { parts: [{ spline: { knots: corners } }] },
    carrier: { kind: 'tracks', trackIds: ['t'], model: 'shift' },
  };
  const recipe = (...layers: object[]) => ({
    ...{ format: 'lurn-recipe', version: 1, clip: { name: 'other', width: 320, height: 180, frames } },
    records: [
      { kind: 'track', id: 't', view: track },
      ...layers.map((view, i) => ({ kind: 'layer', id: `${i}`, view })),
    ],
    samples: { t: { keys: [{ frame: 0, x: 150, y: 100, rotation: 0, scale: 1 }] } },
  });
  await writeFile(path, JSON.stringify(recipe(layer)));
  const done = await lurn('dress', clip, '--recipe', path, '--codec', 'ffv1', '--out', out);
  expect([done.code, done.out]).toEqual([0, expect.stringContaining(`${frames} frames written`)]);
  const dressed = await openClip(out);
  let slot = new Uint8Array(320 * 180);
  for await (const { frame, data } of readFrames(dressed, { first: 0, planes: 'luma', slot: () => slot })) {
    // The square goes as what is followed goes, though that is elsewhere: its area is kept, its middle is moved.
    let [sum, x, y] = [0, 0, 0];
    for (let j = 0; j < 100; j++)
      for (let i = 150; i < 320; i++)
        if (data[j * 320 + i] === 235) [sum, x, y] = [sum + 1, x + i + 0.5, y + j + 0.5];
    const start = position(0);
    const { x: dx, y: dy } = position(frame);
    expect(sum).toBeGreaterThan(1400);
    // Only pixels that are covered whole count: the middle may be off by half a pixel each way.
    expect(Math.hypot(x / sum - (220 + dx - start.x), y / sum - (40 + dy - start.y))).toBeLessThan(0.75);
    slot = new Uint8Array(320 * 180);
  }
  // The layers by themselves, with alpha; and by what they cover, where the picture is steadied.
  const alone = join(folder, 'alone.mov');
  const apart = await lurn(
    'dress',
    clip,
    '--recipe',
    path,
    '--only',
    'layers',
    '--codec',
    'prores4444',
    '--out',
    alone,
  );
  expect([apart.code, (await openClip(alone)).pixelFormat]).toEqual([0, expect.stringMatching(/^yuva/)]);
  const steady = {
    ...{ mode: 'hold', kind: 'even', model: 'shift', smoothSeconds: 1, referenceFrame: 0 },
    channels: { x: true, y: true, rotation: true, scale: true },
    strength: { x: 1, y: 1, rotation: 1, scale: 1, perspective: 1 },
    range: { first: 0, last: frames - 1 },
    framing: { zoom: 1, offsetX: 0, offsetY: 0 },
  };
  const held = recipe(layer);
  held.records[0].view = { ...track, used: true };
  await writeFile(
    path,
    JSON.stringify({ ...held, records: [...held.records, { kind: 'steady', id: 's', view: steady }] }),
  );
  const covered = await lurn(
    ...[
      'steady',
      clip,
      '--recipe',
      path,
      '--only',
      'matte',
      '--zoom',
      'none',
      '--codec',
      'ffv1',
      '--out',
      out,
    ],
  );
  expect([covered.err, covered.code]).toEqual([expect.not.stringContaining('Error'), 0]);
  slot = new Uint8Array(320 * 180);
  for await (const { data } of readFrames(await openClip(out), {
    first: 0,
    planes: 'luma',
    slot: () => slot,
  })) {
    // It rides on what is held: it stands still.
    expect([data[40 * 320 + 220], data[40 * 320 + 260], data[80 * 320 + 220]]).toEqual([235, 16, 16]);
    slot = new Uint8Array(320 * 180);
  }
  const refused = async (...layers: object[]): Promise<unknown[]> => {
    await writeFile(path, JSON.stringify(recipe(...layers)));
    const { code, err } = await lurn('dress', clip, '--recipe', path, '--out', out);
    return [code, err];
  };
  const picture = { ...layer, content: { kind: 'picture', asset: 'no.png', quad: [0, 0, 9, 0, 9, 9, 0, 9] } };
  expect(await refused({ ...layer, fog: 1 })).toEqual([
    1,
    expect.stringContaining('Layer "Number": it has no "fog"'),
  ]);
  expect(await refused(picture)).toEqual([
    1,
    expect.stringContaining('Layer "Number": "no.png" is no picture'),
  ]);
  expect(await refused()).toEqual([2, expect.stringContaining('There is no layer in')]);
});

test('an output of its own size, edges, codecs; the motion file says the size; what cannot be is said', async () => {
  const [out, motion] = [join(folder, 'square.webm'), join(folder, 'square.json')];
  const steadied = await lurn(
    ...['steady', clip, '--scene', '--zoom', 'varying', '--restlessness', '0.8', '--size', '160x160'],
    ...['--edge', 'fill', '--resample', 'lanczos', '--bits', '10', '--motion', motion, '--out', out],
  );
  expect(steadied.err).not.toMatch(/Error/);
  expect(steadied.out).toMatch(/The zoom varies from [\d.]+ to [\d.]+ %/);
  const made = await openClip(out);
  expect([made.width, made.height, made.codec, made.bits, made.pixelAspect]).toEqual([
    160,
    160,
    'vp9',
    10,
    '1:1',
  ]);
  expect((await indexClip(made)).pts).toHaveLength(frames);
  expect(JSON.parse(await readFile(motion, 'utf8'))).toMatchObject({ output: { width: 160, height: 160 } });
  expect((await lurn('report', clip, '--motion', motion)).out).toMatch(/Picture lost +\d/);
  const pictures = join(folder, 'pictures') + '/';
  await lurn('steady', clip, '--scene', '--range', '0:2', '--bits', '16', '--out', pictures);
  expect((await readdir(pictures)).sort()).toEqual(['000000.png', '000001.png', '000002.png']);
  const refusals: [string[], RegExp][] = [
    [['--size', '161x90'], /even numbers of pixels/],
    [['--edge', 'transparent'], /H\.264 has no transparency/],
    [['--codec', 'prores'], /ProRes 422 is not written into \.mp4 files/],
    [['--zoom', 'wobbly'], /"fit", "varying", "none" or a factor/],
    [['--rolling-shutter', '3'], /"auto", "off" or a share/],
  ];
  for (const [asked, sentence] of refusals) {
    const { code, err } = await lurn('steady', clip, '--scene', ...asked, '--out', join(folder, 'no.mp4'));
    expect(code).not.toBe(0);
    expect(err).toMatch(sentence);
  }
});

test('held, treated and given back; compared; what does not belong together is refused', async () => {
  const [held, motion] = [join(folder, 'held.mkv'), join(folder, 'held.json')];
  await lurn('steady', clip, '--scene', '--motion', motion, '--out', held);
  const back = join(folder, 'back.mkv');
  const given = await lurn('give-back', clip, '--treated', held, '--motion', motion, '--out', back);
  expect(given.code).toBe(0);
  expect((await indexClip(await openClip(back))).pts).toHaveLength(frames);
  const pair = join(folder, 'pair.mp4');
  expect((await lurn('compare', clip, held, '--layout', 'side', '--out', pair)).code).toBe(0);
  const compared = await openClip(pair);
  expect([compared.width, compared.height]).toEqual([640, 180]);
  // Of another number of frames, or another size.
  const part = join(folder, 'part.mkv');
  await lurn('steady', clip, '--scene', '--range', '5:14', '--size', '160x90', '--out', part);
  const refused = await lurn('give-back', clip, '--treated', part, '--motion', motion, '--out', back);
  expect(refused.err).toContain('has 10 frames, what was exported 40');
  expect((await lurn('compare', clip, part, '--out', pair)).err).toContain('give the --range A:B');
  expect((await lurn('compare', clip, part, '--range', '5:14', '--layout', 'wipe', '--out', pair)).code).toBe(
    0,
  );
  expect((await indexClip(await openClip(pair))).pts).toHaveLength(10);
});
