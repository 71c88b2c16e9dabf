import { fromSquarePixels, type Mat3 } from '../geometry/mat3.js';
import { parsePixelAspect } from '../geometry/pixel-aspect.js';
import { motionModels } from '../solve/fit-model.js';
import type { SceneMotions } from '../track/scene/scene-pages.js';
import type { ShotSummary } from '../track/scene/scene-summary.js';
import { clipHeader, type ClipFacts } from './clip-facts.js';

/**
 * The motion groups of a clip as open JSON: format `lurn-scene`, version 1. Of each shot its groups, numbered from 1, each with
 * a matrix a frame by the proposed model: from the shot's first frame to where that stands, row-major, corner-origin pixels.
 */
export function writeSceneJson(
  clip: ClipFacts & { pixelAspect: string },
  shots: readonly ShotSummary[],
  motions: SceneMotions,
): string {
  const pixelAspect = parsePixelAspect(clip.pixelAspect);
  return JSON.stringify(
    {
      format: 'lurn-scene',
      version: 1,
      clip: clipHeader(clip),
      shots: shots.map(({ first, last, bridged, readout, groups }, s) => ({
        first,
        last,
        bridged,
        readout,
        groups: groups.map(({ middle: _, first: from, last: to, ...group }, g) => ({
          number: g + 1,
          first: from,
          last: to,
          ...group,
          frames: Array.from(
            { length: last - first + 1 },
            (_, k): { frame: number; frameFromFirst: Mat3 } => ({
              frame: first + k,
              frameFromFirst: fromSquarePixels(motions.matrix(s, first + k, g, group.proposed), pixelAspect),
            }),
          ),
        })),
      })),
      models: motionModels,
    },
    null,
    1,
  );
}
