import type { LayerView } from '@lurn/contract';
import { completeLayer, FormatError, type Layer } from '@lurn/core';
import { LayerRecord as Description, readLayer } from '@lurn/model';
import type { RecordKind } from '../records/record-kind.js';

/** A layer as it is kept. */
export type LayerRecord = LayerView & Layer;

export const layerKind: RecordKind<LayerRecord> = {
  description: Description,
  columns: {},
  read: (kept) => completeLayer(kept as LayerRecord),
  fault(view, frames) {
    try {
      readLayer(view, frames);
      return null;
    } catch (error) {
      if (error instanceof FormatError) return error.message;
      throw error;
    }
  },
};
