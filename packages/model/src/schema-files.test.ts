import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { contentKinds } from '@lurn/core';
import { Ajv } from 'ajv';
import { readLayer } from './layer/layer.js';
import { schemaFiles } from './schema-files.js';

const docs = (path: string): string => fileURLToPath(new URL(`../../../docs/${path}`, import.meta.url));
const text = (path: string): string => readFileSync(docs(path), 'utf8');

const isLayer = new Ajv({ strict: false }).compile(JSON.parse(text('layer.schema.json')) as object);
const examples = readdirSync(docs('examples')).filter((name) => name.endsWith('.json'));

test.each([...schemaFiles()])('docs has the schema of a %s as it is described', (name, schema) => {
  expect(text(`${name}.schema.json`)).toBe(schema);
});

test.each(examples)('the example %s is what the schema says, and is read', (name) => {
  const { records, clip } = JSON.parse(text(`examples/${name}`)) as {
    records: { kind: string; view: object }[];
    clip: { frames: number };
  };
  const layers = records.filter(({ kind }) => kind === 'layer').map(({ view }) => view);
  expect(layers).toHaveLength(1);
  expect([isLayer(layers[0]), isLayer.errors]).toEqual([true, null]);
  expect(`${readLayer(layers[0], clip.frames).content.kind}.json`).toBe(name);
});

test('there is an example of each kind', () => {
  expect(examples.map((name) => name.replace('.json', '')).sort()).toEqual([...contentKinds].sort());
});

test('the schema refuses what the reader refuses, and the other way round', () => {
  const spline = {
    knots: [
      { x: 0, y: 0 },
      { x: 9, y: 0 },
      { x: 9, y: 9 },
    ],
  };
  const cover = { name: 'Odd', content: { kind: 'cover' }, shape: { parts: [{ spline }] } };
  const far = { spline: { knots: [{ x: 1e308, y: 0 }, ...spline.knots] } };
  const odd: object[] = [
    cover,
    { ...cover, fog: 1 },
    { ...cover, content: { kind: 'cover', fog: 1 } },
    { ...cover, content: { kind: 'cover', strength: 0 } },
    { ...cover, content: { kind: 'cover', strength: 1e6 } },
    { ...cover, content: { kind: 'colour', curve: null } },
    { ...cover, content: { kind: 'colour', curve: Array.from({ length: 200_000 }, () => 0) } },
    { ...cover, content: { kind: 'picture', asset: 'a', quad: null } },
    { ...cover, carrier: 'scene' },
    { ...cover, matte: 'other' },
    { ...cover, matte: { keep: 'inside', layerId: 'other' } },
    { ...cover, shape: { parts: [far] } },
    {
      ...cover,
      shape: { parts: [{ spline: { knots: Array.from({ length: 150_000 }, () => spline.knots[0]) } }] },
    },
    { ...cover, name: 'x'.repeat(5_000_000) },
    { ...cover, opacity: '1' },
  ];
  const reads = (layer: object): boolean => {
    try {
      readLayer(layer, 10);
      return true;
    } catch {
      return false;
    }
  };
  const taken = odd.map((layer) => [isLayer(layer), reads(layer)]);
  expect(
    taken.flatMap(([schema, reader], i) => (schema ? [i] : []).concat(schema === reader ? [] : [-i])),
  ).toEqual([0, 10]);
});
