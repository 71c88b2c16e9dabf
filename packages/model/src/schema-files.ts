import { jsonSchema } from './json-schema.js';
import { LayerRecord } from './layer/layer.js';
import { RegionRecord } from './region.js';
import { SceneRecord } from './scene.js';
import { SteadyRecord } from './steady.js';
import { TrackRecord } from './track.js';
import type { Kind } from './fields.js';

const documented: Record<string, [kind: Kind, title: string]> = {
  layer: [LayerRecord, 'A layer of a Lurn clip'],
  track: [TrackRecord, 'A track of a Lurn clip'],
  region: [RegionRecord, 'A region as track files have it'],
  scene: [SceneRecord, 'The whole picture’s motion, found by itself'],
  steady: [SteadyRecord, 'What is chosen about steadying a Lurn clip'],
};

/** The JSON Schemas that docs has, by name, as their files' texts. */
export const schemaFiles = (): Map<string, string> =>
  new Map(
    Object.entries(documented).map(([name, [kind, title]]) => [
      name,
      `${JSON.stringify(jsonSchema(kind, title), null, 1)}\n`,
    ]),
  );
