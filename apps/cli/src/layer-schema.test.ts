import { readdirSync, readFileSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { expect, test } from '@jest/globals';
import { Ajv } from 'ajv';
import { contentKinds, freshContent, layerDefaults, readLayer } from '@lurn/core';

const docs = (path: string): string => fileURLToPath(new URL(`../../../docs/${path}`, import.meta.url));
const read = (path: string): unknown => JSON.parse(readFileSync(docs(path), 'utf8'));

interface Properties {
  properties: Record<string, { default?: unknown }>;
}
const schema = read('layer.schema.json') as Properties & { definitions: Record<string, Properties> };
const isLayer = new Ajv({ strict: false }).compile(schema);

const examples = readdirSync(docs('examples')).filter((name) => name.endsWith('.json'));

test.each(examples)('the example %s is what the schema says, and is read', (name) => {
  const { records, clip } = read(`examples/${name}`) as {
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

test('the schema has every field with its default, and refuses what is unknown', () => {
  for (const [field, value] of Object.entries(layerDefaults)) {
    expect(Object.keys(schema.properties)).toContain(field);
    const told = schema.properties[field].default;
    if (told !== undefined) expect([field, told]).toEqual([field, value]);
  }
  for (const kind of contentKinds) {
    const { properties } = schema.definitions[kind === 'colour' ? 'colourChange' : kind];
    const { kind: _, ...fields } = freshContent(kind);
    expect(Object.keys(properties).sort()).toEqual(['kind', ...Object.keys(fields)].sort());
    for (const [field, value] of Object.entries(fields))
      if (properties[field].default !== undefined)
        expect([field, properties[field].default]).toEqual([field, value]);
  }
  for (const part of ['shape', 'carrier', 'match', 'motionBlur'] as const) {
    const { properties } = schema.definitions[part] ?? (schema.properties[part] as unknown as Properties);
    expect(Object.keys(properties).sort()).toEqual(Object.keys(layerDefaults[part]).sort());
  }
  expect(isLayer({ name: 'Odd', content: { kind: 'cover' }, fog: 1 })).toBe(false);
  expect(isLayer({ name: 'Odd', content: { kind: 'cover', fog: 1 } })).toBe(false);
});
