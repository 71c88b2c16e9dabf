import { quadFits, type ClipContent, type PictureContent } from '@lurn/core';
import { useDocument, type LayerOfClip } from '../../state/document';
import { useDressing } from '../../state/dressing';
import { changeLayer, cornersIn } from '../../state/layers';
import { isRegion } from '../../state/regions';
import { useClipsBeside } from './clips-beside';

const words = { stretch: 'Stretch', fit: 'Fit', fill: 'Fill' };
const tips = {
  stretch: 'All of it, drawn to the shape of the quad',
  fit: 'As large as fits, at its own proportions in the plane of the quad',
  fill: 'Filling the quad at its own proportions; what hangs over is cut off by its outline',
};

/** Puts a picture or a clip into the quad of the region that carries it. */
export function FitQuad({ layer, content }: { layer: LayerOfClip; content: PictureContent | ClipContent }) {
  const track = useDocument((s) =>
    s.tracks.find((one) => one.region && layer.carrier.trackIds.includes(one.id)),
  );
  const clip = useDocument((s) => s.clip);
  const pictures = useDressing((s) => s.pictures);
  const clips = useClipsBeside();
  if (!track || !isRegion(track)) return null;
  const size =
    content.kind === 'picture'
      ? pictures.get(content.asset)
      : content.clip === ''
        ? clip
        : clips.find(({ id }) => id === content.clip);
  return (
    <div className="flex items-center justify-between gap-2">
      <span>In the quad</span>
      <div className="join w-40" role="group" aria-label="Put into the quad">
        {quadFits.map((how) => (
          <button
            key={how}
            className="btn btn-xs join-item flex-1 px-1"
            title={tips[how]}
            disabled={!size}
            onClick={() => {
              const quad = size && cornersIn(track, layer.frame, how, size.width / size.height);
              if (quad) changeLayer(layer.id, { content: { ...content, quad } });
            }}
          >
            {words[how]}
          </button>
        ))}
      </div>
    </div>
  );
}
