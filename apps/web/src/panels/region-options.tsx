import { KeyRound, Trash2 } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { useDocument } from '../state/document';
import { LookPair } from '../lanes/look-pair';
import { usePlayhead } from '../state/playhead';
import { changeRegion, isRegion, keyHoldOut, useRegions, type RegionTrack } from '../state/regions';
import { useSelection } from '../state/selection';
import { percent } from '../ui/format';
import { IconToggle } from '../ui/icon-toggle';

const meanings = {
  lay: ['Lay the quad', 'Dragging a corner lays the quad elsewhere; what was followed stays as it is'],
  right: [
    'Put it right',
    'Dragging a corner says where it belongs on this frame: a key that the path passes through',
  ],
} as const;

const isKeyedHere = (keys: readonly { frame: number }[] | undefined, frame: number): boolean =>
  keys?.some((key) => key.frame === frame) ?? false;

/** How much of a region is left out on the frame shown. */
function LeftOutShare({ trackId }: { trackId: string }) {
  const isOn = useRegions((s) => s.showsLeftOut);
  const leftOut = useRegions((s) => s.leftOut);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  if (!isOn) return null;
  const here = leftOut?.trackId === trackId && leftOut.frame === frame ? leftOut : null;
  return (
    <p className="text-base-content/75" data-testid="left-out-share">
      {!here
        ? 'Looking …'
        : here.found
          ? `${percent(here.found.share, 0)} of it is left out on frame ${frame}: covered, beyond the picture, or unlike its key.`
          : `On frame ${frame} it does not fit at all.`}
    </p>
  );
}

/** What is in the quad on the frame shown, square on, beside the key's, and how they differ. */
function HeldPatch({ track }: { track: RegionTrack }) {
  const isOn = useRegions((s) => s.compared);
  const samples = useDocument((s) => s.samples.get(track.id));
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  const playing = usePlayhead((s) => s.playing);
  if (!isOn || !samples || playing) return null;
  return <LookPair track={track} samples={samples} frame={frame} side={126} />;
}

/** What is the selected region's own: its quad, and what holds parts of it out. */
export function RegionOptions() {
  const selected = useSelection((s) => s.selected);
  const track = useDocument((s) => s.tracks.find(({ id }) => id === selected));
  const tracks = useDocument((s) => s.tracks);
  const corners = useRegions((s) => s.corners);
  const frame = usePlayhead((s) => Math.max(0, s.shown));
  if (!track || !isRegion(track)) return null;
  const { holdOuts, outlines } = track.region;
  return (
    <div className="mt-2 space-y-1.5" data-testid="region-options">
      <div className="join w-full" role="group" aria-label="What dragging a corner means">
        {(['lay', 'right'] as const).map((one) => (
          <button
            key={one}
            className={`btn btn-xs join-item flex-1 ${corners === one ? 'btn-secondary btn-soft' : ''}`}
            aria-pressed={corners === one}
            title={meanings[one][1]}
            onClick={() => useRegions.setState({ corners: one })}
          >
            {meanings[one][0]}
          </button>
        ))}
      </div>
      <div className="flex flex-wrap gap-1.5">
        <ActionButton id="region-squares" className="btn-xs" on="btn-secondary btn-soft" text="Squares" />
        <ActionButton id="region-left-out" className="btn-xs" on="btn-secondary btn-soft" text="Left out" />
        <ActionButton
          id="region-compared"
          className="btn-xs"
          on="btn-secondary btn-soft"
          text="Beside its key"
        />
        <ActionButton id="region-hold-out" className="btn-xs" on="btn-secondary btn-soft" text="Hold out…" />
        <ActionButton id="region-outline" className="btn-xs" text="Look elsewhere from here" />
      </div>
      <LeftOutShare trackId={track.id} />
      <HeldPatch track={track} />
      {outlines.length > 1 && (
        <p className="text-base-content/75">
          Looked for in other outlines from{' '}
          {outlines
            .slice(1)
            .map(({ frame }) => frame)
            .join(', ')}{' '}
          on.
        </p>
      )}
      {holdOuts.map((holdOut, i) => (
        <div key={i} className="flex items-center justify-between gap-2" data-testid="hold-out-row">
          <span>Held out {i + 1}</span>
          <span className="flex items-center gap-1">
            <select
              className="select select-xs w-32"
              aria-label={`What carries held out ${i + 1}`}
              value={holdOut.trackId ?? ''}
              onChange={({ target: { value } }) =>
                void changeRegion(track, {
                  holdOuts: holdOuts.map((one, k) =>
                    k === i ? { ...one, trackId: value || undefined } : one,
                  ),
                })
              }
            >
              <option value="">stays there</option>
              {tracks.flatMap(({ id, name }) =>
                id === track.id ? [] : [<option key={id} value={id}>{`rides on ${name}`}</option>],
              )}
            </select>
            <IconToggle
              label={
                isKeyedHere(holdOut.keys, frame)
                  ? `Take the key of held out ${i + 1} here away`
                  : `Key held out ${i + 1} here`
              }
              pressed={isKeyedHere(holdOut.keys, frame)}
              onClick={() => keyHoldOut(track, i)}
            >
              <KeyRound
                size={13}
                className={isKeyedHere(holdOut.keys, frame) ? 'text-primary' : ''}
                aria-hidden
              />
            </IconToggle>
            <IconToggle
              label={`Remove held out ${i + 1}`}
              onClick={() => void changeRegion(track, { holdOuts: holdOuts.filter((_, k) => k !== i) })}
            >
              <Trash2 size={13} aria-hidden />
            </IconToggle>
          </span>
        </div>
      ))}
    </div>
  );
}
