import { expect, test } from '@jest/globals';
import { similarityMatrix } from '../geometry/similarity.js';
import { stillMotion, type Motion } from '../solve/motion.js';
import { Samples, SampleState } from '../track/samples.js';
import { writeMotionCsv, writeTrackMotionsCsv } from './motion-csv.js';

const motion: Motion = {
  ...stillMotion(3, 0, { x: 100, y: 50 }),
  matrices: Float64Array.from(
    [
      { x: 0, y: 0, rotation: 0, scale: 1 },
      { x: 4, y: -2, rotation: Math.PI / 2, scale: 1 },
      { x: 0, y: 0, rotation: 0, scale: 2 },
    ].flatMap((pose) => [...similarityMatrix(pose, { x: 100, y: 50 })]),
  ),
};
const size = { width: 200, height: 100 };

test('a row a frame: where the pivot is, its turn in degrees, its size', () => {
  expect(writeMotionCsv(motion, size, { first: 0, last: 2 }, 'pose').split('\r\n')).toEqual([
    'frame,x,y,rotation,scale',
    '0,100,50,0,1',
    '1,104,48,90,1',
    '2,100,50,0,2',
    '',
  ]);
});

test('or where the corners of the reference frame stand, of the range alone', () => {
  expect(writeMotionCsv(motion, size, { first: 1, last: 2 }, 'corners').split('\r\n')).toEqual([
    'frame,x1,y1,x2,y2,x3,y3,x4,y4',
    // A quarter turn clockwise about 100, 50, and on by 4, −2.
    '1,154,-52,154,148,54,148,54,-52',
    '2,-100,-50,300,-50,300,150,-100,150',
    '',
  ]);
});

test('of wide pixels x is in the clip’s own', () => {
  const wide = { ...motion, pixelAspect: 2 };
  expect(writeMotionCsv(wide, size, { first: 1, last: 1 }, 'pose')).toContain('1,52,48,90,1');
});

test('each track by itself: its pose, or the corners of its box as it was found turned and sized', () => {
  const samples = new Samples(4);
  const found = { confidence: 1, state: SampleState.tracked };
  samples.set(1, { x: 100, y: 50, rotation: 0, scale: 1, ...found });
  samples.set(3, { x: 104, y: 48, rotation: Math.PI / 2, scale: 2, ...found });
  const tracks = [{ name: 'Post, left', samples, template: { width: 20, height: 10 } }];
  expect(writeTrackMotionsCsv(tracks, { first: 0, last: 3 }, 'pose').split('\r\n')).toEqual([
    'track,frame,x,y,rotation,scale',
    '"Post, left",1,100,50,0,1',
    '"Post, left",3,104,48,90,2',
    '',
  ]);
  expect(writeTrackMotionsCsv(tracks, { first: 2, last: 3 }, 'corners').split('\r\n')).toEqual([
    'track,frame,x1,y1,x2,y2,x3,y3,x4,y4',
    // A quarter turn clockwise, and twice as large: the box stands on end.
    '"Post, left",3,114,28,114,68,94,68,94,28',
    '',
  ]);
});
