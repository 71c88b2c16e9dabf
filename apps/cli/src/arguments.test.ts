import { expect, test } from '@jest/globals';
import {
  parseChannels,
  parseFrame,
  parseKey,
  parseNumber,
  parsePoint,
  parseRange,
  parseZoom,
} from './arguments.js';
import { UsageError } from './usage-error.js';

test('points', () => {
  expect(parsePoint('960,540.5@12')).toEqual({ x: 960, y: 540.5, frame: 12, name: null });
  expect(parsePoint('-3,0@0=left rail=old')).toEqual({ x: -3, y: 0, frame: 0, name: 'left rail=old' });
  for (const text of ['960,540', '960@3', 'a,b@1', '1,2@-1', '1,2@x', '1.2.3,4@0', '1,2@3=']) {
    expect(() => parsePoint(text)).toThrow(UsageError);
  }
});

test('keys, with the box on the point or elsewhere', () => {
  expect(parseKey('plate@120=964.5,541')).toEqual({
    name: 'plate',
    frame: 120,
    x: 964.5,
    y: 541,
    aside: { x: 0, y: 0 },
  });
  expect(parseKey('a@b@3=10,20/14,-5').aside).toEqual({ x: 4, y: -25 });
  for (const text of ['plate', 'plate@1=2', 'plate@1=2,3/', 'plate@1=2,3/4', 'plate@x=1,2', 'p@1=1.2.3,4'])
    expect(() => parseKey(text)).toThrow(UsageError);
});

test('ranges hold both ends', () => {
  expect(parseRange('0:299')).toEqual({ first: 0, last: 299 });
  expect(parseRange('7:7')).toEqual({ first: 7, last: 7 });
  for (const text of ['9:3', '5', ':5', '5:', '-1:5', '1.5:3'])
    expect(() => parseRange(text)).toThrow(/first and last frame/);
});

test('numbers say what they must be', () => {
  const template = parseNumber('The template', 7, 401);
  expect(template('41')).toBe(41);
  for (const text of ['6', '402', 'wide', ''])
    expect(() => template(text)).toThrow(/The template must be a number from 7 to 401/);
});

test('frames, channels and zoom', () => {
  expect(parseFrame('30')).toBe(30);
  expect(() => parseFrame('-1')).toThrow(/count from 0/);
  expect(parseChannels('x, scale')).toEqual({ x: true, y: false, rotation: false, scale: true });
  expect(() => parseChannels('x,z')).toThrow(/"z" is no channel/);
  expect([parseZoom('fit'), parseZoom('none'), parseZoom('1.25')]).toEqual(['fit', 'none', 1.25]);
  for (const text of ['0', '21', 'all']) expect(() => parseZoom(text)).toThrow(UsageError);
});
