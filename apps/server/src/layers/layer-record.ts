import type { LayerView } from '@lurn/contract';
import { UnprocessableEntityException } from '@nestjs/common';
import { completeLayer, FormatError, readLayer, type Layer } from '@lurn/core';
import { differingFields, type RecordKind } from '../records/record-kind.js';

/** A layer as it is kept. */
export type LayerRecord = LayerView & Layer;

export const layerKind: RecordKind<LayerRecord> = {
  columns: {},
  read: (kept) => completeLayer(kept as LayerRecord),
  parts: differingFields,
  copy: (view, id, clipId, newIdOf) => ({
    ...view,
    id,
    clipId,
    carrier: { ...view.carrier, trackIds: view.carrier.trackIds.map(newIdOf) },
    shape: {
      ...view.shape,
      carrier: view.shape.carrier && {
        ...view.shape.carrier,
        trackIds: view.shape.carrier.trackIds.map(newIdOf),
      },
    },
    content:
      view.content.kind === 'clip' ? { ...view.content, clip: newIdOf(view.content.clip) } : view.content,
    matte:
      view.matte &&
      ('regionId' in view.matte
        ? { ...view.matte, regionId: newIdOf(view.matte.regionId) }
        : { ...view.matte, layerId: newIdOf(view.matte.layerId) }),
  }),
  check(view, frames) {
    try {
      readLayer(view, frames);
      return Promise.resolve(true);
    } catch {
      return Promise.resolve(false);
    }
  },
};

/** A layer as it was sent, for a clip of so many frames. */
export function checkedLayer(given: object, frames: number): Layer {
  try {
    return readLayer(given, frames);
  } catch (error) {
    if (error instanceof FormatError) throw new UnprocessableEntityException(error.message);
    throw error;
  }
}
