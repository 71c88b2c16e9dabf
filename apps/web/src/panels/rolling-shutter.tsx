import type { SteadyView } from '@lurn/contract';
import { mostReadout, readoutInWords, readoutOf } from '@lurn/core';
import { useDocument } from '../state/document';
import { changeSteady } from '../state/steadying';

const what = 'Rolling shutter';

/** Whether rows are put where they would have been had the frame been read at once: as found, not at all, or by hand. */
export function RollingShutter() {
  const chosen = useDocument((s) => s.steady?.rollingShutter);
  const shots = useDocument((s) => (s.scene?.used ? s.scene.shots : null));
  if (!chosen) return null;
  const found = shots && readoutOf(shots);
  const choose = (change: Partial<SteadyView['rollingShutter']>): void =>
    changeSteady({ rollingShutter: { ...chosen, ...change } }, what);
  return (
    <div className="mt-2">
      <label className="flex items-center justify-between gap-2">
        <span
          className="whitespace-nowrap"
          title="Rows of a frame that are read one after another lean and wobble when the camera shakes"
        >
          {what}
        </span>
        <select
          className="select select-xs w-40"
          value={chosen.mode}
          aria-label={what}
          onChange={(event) => {
            const mode = event.target.value as SteadyView['rollingShutter']['mode'];
            choose(mode === 'share' && chosen.share === 0 ? { mode, share: found?.share ?? 0.5 } : { mode });
          }}
        >
          <option value="auto">As found</option>
          <option value="off">Left as it is</option>
          <option value="share">By hand</option>
        </select>
      </label>
      {chosen.mode === 'share' ? (
        <label className="mt-1.5 flex items-center justify-end gap-2 text-[11px] text-base-content/70">
          read out over
          <input
            type="number"
            className="input input-xs w-18 text-right font-mono"
            min={-mostReadout}
            max={mostReadout}
            step={0.05}
            value={Number(chosen.share.toFixed(3))}
            aria-label="Readout as a share of a frame"
            onChange={(event) => {
              const share = event.target.valueAsNumber;
              if (Math.abs(share) <= mostReadout) choose({ share });
            }}
          />
          of a frame
        </label>
      ) : (
        chosen.mode === 'auto' && (
          <p className="mt-0.5 text-right text-[11px] text-base-content/70" data-testid="readout">
            {shots ? readoutInWords(found) : 'told by the camera’s motion'}
          </p>
        )
      )}
    </div>
  );
}
