import { expect, test } from '@jest/globals';
import { Reason, Samples, SampleState, type Sample } from '@lurn/core';
import { reasonInWords, troubleInWords } from './reason-in-words';

const sample: Sample = {
  x: 10,
  y: 20,
  confidence: 0.6,
  rotation: 0,
  scale: 1,
  state: SampleState.tracked,
  reason: Reason.covered,
};

test('a doubtful sample says why, and what can be done; a sure one and an old one say nothing', () => {
  expect(reasonInWords(sample)).toEqual({
    why: 'Part of the box shows something else.',
    help: 'Bridge the stretch, or place keys in it.',
  });
  expect(reasonInWords({ ...sample, confidence: 0.9 })).toBeNull();
  expect(reasonInWords({ ...sample, reason: Reason.none })).toBeNull();
  expect(reasonInWords({ ...sample, state: SampleState.placed })).toBeNull();
  expect(reasonInWords(null)).toBeNull();
  const bridged = reasonInWords({ ...sample, state: SampleState.bridged });
  expect(bridged?.help).toBe('Where the bridge leads astray, place a key.');
});

test('every reason is a sentence with a way out', () => {
  for (const reason of Object.values(Reason)) {
    const said = reasonInWords({ ...sample, reason });
    if (reason === Reason.none) continue;
    // Both fit on two lines of the panel.
    expect(`${said?.why} ${said?.help}`.length).toBeLessThan(115);
    expect(said?.why).toMatch(/^[A-Z].*\.$/);
    expect(said?.help).toMatch(/^[A-Z].*\.$/);
  }
});

test('a stretch is told by its first frame', () => {
  const samples = new Samples(9);
  samples.set(3, sample);
  samples.set(5, { ...sample, state: SampleState.bridged, reason: Reason.missing });
  samples.set(7, { ...sample, state: SampleState.lost, reason: Reason.none });
  expect([3, 5, 7, 8].map((frame) => troubleInWords(samples, frame))).toEqual([
    'From frame 3 doubtful: part of the box shows something else',
    'From frame 5 bridged: nothing like it was found',
    'From frame 7 lost',
    '',
  ]);
});
