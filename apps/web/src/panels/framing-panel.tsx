import type { SteadyView } from '@lurn/contract';
import { usualRestlessness } from '@lurn/core';
import { Maximize } from 'lucide-react';
import { ActionButton } from '../actions/action-button';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { changeSteady, hideBareEdges } from '../state/steadying';
import { Fold } from '../ui/fold';
import { percent } from '../ui/format';
import { Section } from './section';
import { ShakeChart } from './shake-chart';

/** Zoom and offset, and what forces them. */
export function FramingPanel() {
  const steady = useDocument((s) => s.steady);
  const result = useDocument((s) => s.result);
  const shake = useDocument((s) => s.shake);
  if (!steady || !result) return null;
  const { framing } = steady;
  const { bare, fit } = result;
  const isComposed = steady.mode === 'smooth' && steady.kind === 'composed';
  const set = (part: Partial<typeof framing>): void =>
    changeSteady({ framing: { ...framing, ...part } }, 'Framing');
  const { shakeBefore, shakeAfter, lost, softer } = result.report;
  const [before, after] = shake ? [shake.before, shake.after] : [shakeBefore, shakeAfter];
  return (
    <Section title="Framing">
      <button
        className="btn btn-sm btn-primary btn-soft w-full"
        onClick={() => void hideBareEdges()}
        title="The smallest zoom that leaves no bare edge in any frame of the range (E)"
      >
        <Maximize size={14} aria-hidden /> Hide bare edges
      </button>
      <p
        className="mt-2 min-h-9 leading-snug text-base-content/75"
        aria-live="polite"
        data-testid="framing-says"
      >
        {bare.length > 0 ? (
          <>
            Bare in {bare.length === 1 ? 'one frame' : `${bare.length} frames`}; worst{' '}
            {bare[0].pixels.toFixed(1)} px in{' '}
            <FrameLink frame={bare[0].frame} text={`frame ${bare[0].frame}, ${bare[0].edge}`} />
          </>
        ) : framing.zoom === 1 && fit && fit.framing.zoom === 1 ? (
          'No bare edge anywhere; no zoom needed.'
        ) : (
          <>
            No bare edge in the range.{' '}
            {isComposed && fit && `An even path would need ${percent(fit.framing.zoom)}.`}
            {!isComposed && fit && fit.forcedBy.length > 0 && (
              <>
                {percent(fit.framing.zoom)} is forced by{' '}
                {fit.forcedBy.map(({ frame, edge }, i) => (
                  <span key={edge}>
                    {i > 0 && ', '}
                    <FrameLink frame={frame} text={`frame ${frame}, ${edge}`} />
                  </span>
                ))}
                .
              </>
            )}
          </>
        )}
      </p>
      <ZoomKind />
      <Slider
        label="Zoom"
        value={framing.zoom}
        text={percent(framing.zoom)}
        min={0.5}
        max={3}
        step={0.001}
        onChange={(zoom) => set({ zoom })}
      />
      <Slider
        label="Offset x"
        value={framing.offsetX}
        text={`${framing.offsetX.toFixed(1)} px`}
        min={-600}
        max={600}
        step={0.5}
        onChange={(offsetX) => set({ offsetX })}
      />
      <Slider
        label="Offset y"
        value={framing.offsetY}
        text={`${framing.offsetY.toFixed(1)} px`}
        min={-400}
        max={400}
        step={0.5}
        onChange={(offsetY) => set({ offsetY })}
      />
      <p className="mt-1.5 flex justify-between text-[11.5px] text-base-content/75">
        <span
          title={`${
            shake
              ? 'How far features that no solve has seen are from their own smoothed paths'
              : "The second differences of the picture's corners"
          }, RMS pixels; the share of the picture that is not seen; the share of its detail that its enlargement takes`}
          data-testid="shake"
        >
          Shake {before.toFixed(2)} → {after.toFixed(2)} px · {percent(lost, 0)} lost · {percent(softer, 0)}{' '}
          softer
        </span>
        <button
          className="link link-hover"
          onClick={() => changeSteady({ framing: { zoom: 1, offsetX: 0, offsetY: 0 } }, 'Framing')}
        >
          Reset
        </button>
      </p>
      <div className="mt-1.5 flex gap-1.5">
        <ActionButton id="slide" className="btn-xs" on="btn-active" text="Slide it" />
        <ActionButton id="keep-framing" className="btn-xs" text="As on this frame" bare />
      </div>
      <WorstFrames />
      <ShakeChart />
    </Section>
  );
}

/** One zoom for all frames, or one that changes slowly. */
function ZoomKind() {
  const varying = useDocument((s) => s.steady?.varying);
  const zooms = useDocument((s) => s.result?.zooms);
  const range = useDocument((s) => s.steady?.range);
  const change = (next: SteadyView['varying']): void => changeSteady({ varying: next }, 'Varying zoom');
  const shown = zooms && range ? zooms.subarray(range.first, range.last + 1) : null;
  return (
    <>
      <div className="join mt-1 grid grid-cols-2" role="radiogroup" aria-label="Whether the zoom changes">
        {[
          { name: 'One zoom', on: !varying, next: undefined, says: 'The same zoom on every frame' },
          {
            name: 'Varying',
            on: !!varying,
            next: { restlessness: usualRestlessness },
            says: 'Slowly changing, no more on any stretch than its own bare edges ask for',
          },
        ].map(({ name, on, next, says }) => (
          <button
            key={name}
            role="radio"
            aria-checked={on}
            className={`btn btn-xs join-item ${on ? 'btn-secondary btn-soft' : ''}`}
            title={says}
            onClick={() => !on && change(next)}
          >
            {name}
          </button>
        ))}
      </div>
      {varying && (
        <>
          <Slider
            label="Restless"
            value={varying.restlessness}
            text={percent(varying.restlessness, 0)}
            min={0}
            max={1}
            step={0.01}
            onChange={(restlessness) => change({ restlessness })}
          />
          <p className="mt-1 text-[11.5px] text-base-content/75" data-testid="zoom-varies">
            {shown
              ? `The zoom goes from ${percent(Math.min(...shown))} to ${percent(Math.max(...shown))}.`
              : 'No zoom hides every bare edge; the one below is kept.'}
          </p>
        </>
      )}
    </>
  );
}

/** Frames on which a bare edge shows, the worst first. */
function WorstFrames() {
  const bare = useDocument((s) => s.result?.bare);
  if (!bare || bare.length === 0) return null;
  return (
    <Fold name="Bare edges" aside={<span className="font-mono text-[11px]">{bare.length}</span>}>
      <ul className="max-h-40 overflow-y-auto pt-1" data-testid="bare-frames">
        {bare.slice(0, mostListed).map(({ frame, edge, pixels }) => (
          <li key={frame}>
            <button
              className="flex w-full justify-between rounded px-1.5 py-0.5 text-left hover:bg-base-300/60"
              onClick={() => go(frame)}
            >
              <span>Frame {frame}</span>
              <span className="font-mono text-[11.5px] text-base-content/75">
                {edge} {Number.isFinite(pixels) ? `${pixels.toFixed(1)} px` : 'whole'}
              </span>
            </button>
          </li>
        ))}
      </ul>
      {bare.length > mostListed && (
        <p className="pt-1 text-[11px] text-base-content/70">
          and {bare.length - mostListed} more, less bare
        </p>
      )}
    </Fold>
  );
}

const mostListed = 200;

function FrameLink({ frame, text }: { frame: number; text: string }) {
  return (
    <button className="link link-primary" onClick={() => go(frame)} data-testid="forcing-frame">
      {text}
    </button>
  );
}

interface SliderProps {
  label: string;
  value: number;
  text: string;
  min: number;
  max: number;
  step: number;
  onChange: (value: number) => void;
}

function Slider({ label, value, text, min, max, step, onChange }: SliderProps) {
  return (
    <label className="mt-1 grid grid-cols-[58px_1fr_64px] items-center gap-2">
      <span>{label}</span>
      <input
        type="range"
        className="range range-secondary range-xs w-full [--range-fill:0]"
        min={min}
        max={max}
        step={step}
        value={value}
        aria-valuetext={text}
        onChange={(event) => onChange(Number(event.target.value))}
      />
      <span className="text-right font-mono text-[11.5px]">{text}</span>
    </label>
  );
}
