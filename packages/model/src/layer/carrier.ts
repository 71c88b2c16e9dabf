import { carrierKinds, layerDefaults, motionModels, type Carrier } from '@lurn/core';
import { Choice, Flag, References } from '../fields.js';

const { kind, model, position, rotation, scale } = layerDefaults.carrier;

/** What the motion may be: the simplest that explains it, or one by name. */
export const modelChoices = ['auto', ...motionModels] as const;

/** What a layer rides on, and what of that it takes. */
export class CarrierRecord implements Carrier {
  @Choice(carrierKinds, {
    description: 'The frame itself, tracks that are followed, what is held of the scene',
  })
  kind: Carrier['kind'] = kind;

  @References({ most: 500 }, { description: 'Of tracks: ids of their records' })
  trackIds: string[] = [];

  @Choice(modelChoices, { description: 'What it takes of them' })
  model: Carrier['model'] = model;

  @Flag() position: boolean = position;
  @Flag() rotation: boolean = rotation;
  @Flag() scale: boolean = scale;
}
