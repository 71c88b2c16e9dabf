import { join } from 'node:path';
import { afterAll, beforeAll, expect, test } from '@jest/globals';
import type { ClipView, JobView, SceneView } from '@lurn/contract';
import { apply, type Mat3 } from '@lurn/core';
import { startFfmpeg } from '@lurn/media';
import { makeStripClip } from '@lurn/media/testing';
import { Harness, until } from '../testing/harness.js';

const frames = 50;
const position = (k: number) => ({ x: 0.8 * k, y: 4 * Math.sin(k / 4) });
let harness: Harness;
let clipId: string;
const api = () => harness.api();

beforeAll(async () => {
  harness = await Harness.start();
  const path = join(harness.folder, 'strip.mp4');
  await makeStripClip({ path, frames, position });
  clipId = (await harness.upload(path)).id;
  await harness.read(clipId);
});
afterAll(() => harness.end());

const view = (): Promise<ClipView> => harness.view(clipId);

async function find(body: object = {}): Promise<SceneView> {
  const { id } = (await api().post(`/api/clips/${clipId}/scene`).send(body).expect(202)).body as JobView;
  await until(async () => {
    const { state } = (await api().get(`/api/jobs/${id}`)).body as JobView;
    return state === 'done';
  });
  return (await view()).scene as SceneView;
}

test('the motion is found, held in the export’s placements, undone and done again', async () => {
  const scene = await find();
  expect(scene).toMatchObject({
    name: 'Scene',
    used: true,
    shots: [{ first: 0, last: frames - 1, group: 0 }],
  });
  const { text } = await api().get(`/api/clips/${clipId}/motion.json`).buffer(true).expect(200);
  const { frames: rows } = JSON.parse(text) as { frames: { frame: number; outputFromFrame: Mat3 }[] };
  for (const { frame, outputFromFrame } of rows) {
    const { x, y } = position(frame);
    const at = apply(outputFromFrame, 160 + x, 90 + y);
    expect(Math.hypot(at.x - 160, at.y - 90)).toBeLessThan(0.3);
  }
  const packed = await api().get(`/api/records/${scene.id}/features`).expect(200);
  expect((packed.body as Buffer).length).toBeGreaterThan(1000);
  expect((await view()).history.undo).toBe('Find the camera’s motion');
  await api().post(`/api/clips/${clipId}/undo`).expect(200);
  expect((await view()).scene).toBeNull();
  await api().post(`/api/clips/${clipId}/redo`).expect(200);
  expect((await view()).scene?.foundAt).toBe(scene.foundAt);
});

test('what cannot be held is refused in a sentence; choices are kept', async () => {
  const { scene } = await view();
  const patch = (body: object) => api().patch(`/api/scenes/${scene?.id}`).send(body);
  const refusals = [
    [{ hold: { shot: 3, group: 0 } }, 'There is no shot 4 in this clip.'],
    [{ hold: { shot: 0, group: 5 } }, 'there is no group 6'],
    [{ hold: { shot: 0, group: 0, depth: 0.5 } }, 'The camera does not travel in shot 1'],
  ] as const;
  for (const [body, sentence] of refusals) {
    const { message } = (await patch(body).expect(422)).body as { message: string };
    expect(message).toContain(sentence);
  }
  await patch({ hold: { shot: 0, group: 'first' } }).expect(422);
  await patch({ used: false, name: 'Far bank' }).expect(200);
  expect((await view()).scene).toMatchObject({ used: false, name: 'Far bank' });
  await api().post(`/api/clips/${clipId}/exports`).expect(422);
  await patch({ used: true }).expect(200);
});

test('areas say where to look; a scene is found anew in its place, and goes with the project file', async () => {
  const corner = (x: number, y: number) => ({ x, y, inX: 0, inY: 0, outX: 0, outY: 0 });
  const left = { knots: [corner(0, 0), corner(150, 0), corner(150, 180), corner(0, 180)] };
  const before = (await view()).scene as SceneView;
  const scene = await find({ within: [left] });
  expect(scene.id).toBe(before.id);
  expect(scene.within).toHaveLength(1);
  const [all, some] = [before, scene].map(({ shots }) => shots[0].groups[0].members);
  expect(some).toBeLessThan(0.75 * all);
  await api().delete(`/api/scenes/${scene.id}`).expect(200);
  expect((await view()).scene).toBeNull();
  await api().post(`/api/clips/${clipId}/undo`).expect(200);
  expect((await view()).scene?.id).toBe(scene.id);
  const { projectId } = await view();
  const copy = (await api().post(`/api/projects/${projectId}/copies`).expect(201)).body as {
    clips: { id: string }[];
  };
  const copied = await harness.view(copy.clips[0].id);
  expect(copied.scene?.shots).toEqual(scene.shots);
  const motion = await api().get(`/api/clips/${copied.id}/scene.json`).expect(200);
  expect(motion.body).toMatchObject({ format: 'lurn-scene', version: 1 });
});

test('where nothing can be followed the job says what can be done', async () => {
  const path = join(harness.folder, 'grey.mp4');
  await startFfmpeg(['-f', 'lavfi', '-i', 'color=gray:s=320x180:r=25:d=0.5', '-y', path]).done;
  const { id } = await harness.upload(path);
  await harness.read(id);
  const job = (await api().post(`/api/clips/${id}/scene`).send({}).expect(202)).body as JobView;
  const ended = await until(async () => {
    const now = (await api().get(`/api/jobs/${job.id}`)).body as JobView;
    return now.state === 'failed' && now;
  });
  expect(ended.error).toContain('Place a point on something with contrast');
});
