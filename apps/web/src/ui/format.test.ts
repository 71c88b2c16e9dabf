import { expect, test } from '@jest/globals';
import { SampleState } from '@lurn/core';
import { bytes, clock, percent, sampleInWords, spokenRate, timeLeft } from './format';
import { trackColour } from './track-colour';

test('times, rates, sizes and shares as people read them', () => {
  expect([0, 9.5, 61.25, 600].map(clock)).toEqual(['0:00.00', '0:09.50', '1:01.25', '10:00.00']);
  const clip = { frames: 68, seconds: 29.6, uneven: false };
  const rates = ['30000/1001', '25/1', '24000/1001'].map((frameRate) => spokenRate({ ...clip, frameRate }));
  expect(rates).toEqual(['29.97/s', '25/s', '23.976/s']);
  expect(spokenRate({ ...clip, frameRate: '15/1', uneven: true })).toBe('uneven, 2.3/s on average');
  expect([512, 1500, 15_717_901, 3_200_000_000].map(bytes)).toEqual(['512 B', '1.5 kB', '16 MB', '3.2 GB']);
  expect(percent(1.0574)).toBe('105.7 %');
});

test('time left is told once something can be said', () => {
  const ago = (seconds: number): string => new Date(Date.now() - seconds * 1000).toISOString();
  expect(timeLeft(ago(0.1), 50, 100)).toBeNull();
  expect(timeLeft(ago(10), 0, 100)).toBeNull();
  expect(timeLeft(ago(10), 25, 100)).toBe('30 s left');
  expect(timeLeft(ago(10), 99, 100)).toBe('a moment left');
  expect(timeLeft(ago(60), 10, 100)).toBe('9 min left');
});

test('tracks near each other in the list never share a colour', () => {
  for (let i = 0; i < 20; i++) expect(trackColour(i)).not.toBe(trackColour(i + 1));
});

test('a sample is told by its place, turn, size and how sure it is', () => {
  const at = { x: 963.27, y: 540, rotation: Math.PI / 60, scale: 1.0204, confidence: 0.714 };
  const { tracked, bridged, placed, lost } = SampleState;
  expect(sampleInWords({ ...at, state: tracked })).toBe('71 % · 963.3, 540.0 · 3.0° · 1.020×');
  expect(sampleInWords({ ...at, state: bridged })).toBe('bridged · 963.3, 540.0 · 3.0° · 1.020×');
  expect(sampleInWords({ ...at, rotation: -at.rotation, state: placed })).toBe(
    'key · 963.3, 540.0 · −3.0° · 1.020×',
  );
  expect(sampleInWords({ ...at, state: lost })).toBe('lost here');
  expect(sampleInWords(null)).toBe('not followed here');
});
