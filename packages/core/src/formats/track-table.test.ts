import { expect, test } from '@jest/globals';
import { noSample, Samples, SampleState } from '../track/samples.js';
import { writeTracksCsv } from './track-file.js';
import { guessMapping, readTable, readTrackTable } from './track-table.js';

const clip = { width: 200, height: 100, frames: 50 };

test('what is written is read again without asking', () => {
  const samples = new Samples(50);
  samples.set(3, { ...noSample, x: 12.5, y: 7.25, confidence: 1, state: SampleState.placed });
  samples.set(4, {
    ...noSample,
    x: 13,
    y: 8,
    rotation: 0.25,
    scale: 1.5,
    confidence: 0.5,
    state: SampleState.tracked,
  });
  const table = readTable(writeTracksCsv([{ name: 'ring, "left"', samples }], { width: 640, height: 360 }));
  const { tracks, errors } = readTrackTable(table, guessMapping(table), clip);
  expect(errors).toEqual([]);
  expect(tracks[0].name).toBe('ring, "left"');
  expect(tracks[0].samples.get(3)).toEqual(samples.get(3));
  expect(tracks[0].samples.get(4)).toMatchObject({ x: 13, y: 8, rotation: 0.25, scale: 1.5 });
});

test('strange names, per cent, y upwards, counted from one, decimal commas', () => {
  const table = readTable('Nr;quer;hoch\n1;25,5;10\n2;26;12,5\n');
  expect(guessMapping(table).columns).toEqual({});
  expect(() => readTrackTable(table, guessMapping(table), clip)).toThrow(/which column holds the frame/);
  const mapping = {
    columns: { frame: 0, x: 1, y: 2 },
    frameOffset: -1,
    units: 'percent' as const,
    yUp: true,
    angles: 'radians' as const,
  };
  const { tracks, errors } = readTrackTable(table, mapping, clip);
  expect(errors).toEqual([]);
  expect([0, 1].map((k) => tracks[0].samples.get(k))).toMatchObject([
    { x: 51, y: 90 },
    { x: 52, y: 87.5 },
  ]);
});

test('a line that cannot be used is named by its number, the rest is taken', () => {
  const table = readTable(
    '\uFEFFframe,x,y,name\n0,1,2,"a\nb"\n1,,2,a\n2,far,2,a\n\n99,1,2,a\n1.5,1,2,a\n3,5,6,a\n3,5,6,a',
  );
  const { tracks, errors } = readTrackTable(table, guessMapping(table), clip);
  expect(errors.map(({ line, message }) => `${line} ${message}`)).toEqual([
    '4 x is missing.',
    '5 "far" is no number for x.',
    '7 Frame 99 is outside the clip; its frames are 0 to 49.',
    '8 1.5 is not a whole frame number.',
    '10 "a" has a place on frame 3 already.',
  ]);
  expect(tracks.map(({ name, samples }) => [name, samples.found(0), samples.found(3)])).toEqual([
    ['a\nb', true, false],
    ['a', false, true],
  ]);
  expect(() => readTable(' \n')).toThrow('no values');
});

test('a table without a heading is numbers from its first line on', () => {
  const table = readTable('0\t5\t6\n1\t7\t8');
  expect([table.heading, table.rows.length]).toEqual([null, 2]);
});
