import type { Match, MotionBlur } from '@lurn/core';
import type { LayerOfClip } from '../../state/document';
import { changeLayer, matchLayer } from '../../state/layers';
import { Fold } from '../../ui/fold';
import { percent } from '../../ui/format';
import { Slider } from './fields';

/** Softness, grain, black and white as they are about a layer, and blur of its own way. */
export function SitInPicture({ layer }: { layer: LayerOfClip }) {
  const { id, match, motionBlur } = layer;
  const set = (part: Partial<Match>): void => changeLayer(id, { match: { ...match, ...part } });
  const blur = (part: Partial<MotionBlur>): void =>
    changeLayer(id, { motionBlur: { ...motionBlur, ...part } });
  return (
    <Fold name="Sit in the picture">
      <div className="space-y-2 pt-1" data-testid="sit-in-picture">
        <button className="btn btn-xs w-full" onClick={() => void matchLayer(layer)}>
          Measure what is about it on this frame
        </button>
        <Slider
          label="Soften"
          value={match.soften}
          text={`${match.soften.toFixed(1)} px`}
          most={8}
          onChange={(soften) => set({ soften })}
        />
        <Slider
          label="Grain"
          value={match.grain}
          text={percent(match.grain, 1)}
          most={0.1}
          onChange={(grain) => set({ grain })}
        />
        <Slider
          label="Black"
          value={match.black}
          text={percent(match.black, 0)}
          most={1}
          onChange={(black) => set({ black })}
        />
        <Slider
          label="White"
          value={match.white}
          text={percent(match.white, 0)}
          most={1}
          onChange={(white) => set({ white })}
        />
        <Slider
          label="Shutter"
          value={motionBlur.shutter}
          text={percent(motionBlur.shutter, 0)}
          most={1}
          onChange={(shutter) => blur({ shutter })}
        />
        {motionBlur.shutter > 0 && (
          <Slider
            label="Samples"
            value={motionBlur.samples}
            text={motionBlur.samples.toFixed(0)}
            least={2}
            most={32}
            onChange={(samples) => blur({ samples: Math.round(samples) })}
          />
        )}
      </div>
    </Fold>
  );
}
