import { Crosshair } from 'lucide-react';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { changeSteady } from '../state/steadying';
import { usePlayhead } from '../state/playhead';
import { Section } from './section';

const channelNames = [
  ['x', 'x'],
  ['y', 'y'],
  ['rotation', 'Rotation'],
  ['scale', 'Scale'],
] as const;

// The slider's middle is a second and a bit: fine where it matters, five seconds at the end.
const secondsOfSlider = (share: number): number => Math.round(5 * share * share * 100) / 100;
const sliderOfSeconds = (seconds: number): number => Math.sqrt(Math.min(seconds, 5) / 5);

/** What is taken out of the motion. */
export function SteadyPanel() {
  const steady = useDocument((s) => s.steady);
  const model = useDocument((s) => s.result?.motion.model ?? 'translation');
  if (!steady) return null;
  const { mode, smoothSeconds, channels, referenceFrame } = steady;
  return (
    <Section title="Steady">
      <div className="join grid grid-cols-2" role="radiogroup" aria-label="How the motion is taken out">
        {(['hold', 'smooth'] as const).map((one) => (
          <button
            key={one}
            role="radio"
            aria-checked={mode === one}
            className={`btn btn-sm join-item ${mode === one ? 'btn-primary' : ''}`}
            title={
              one === 'hold'
                ? 'All motion out: what is followed stays where it is'
                : 'Keep the intended move, take out the shake'
            }
            onClick={() => changeSteady({ mode: one }, 'Mode')}
          >
            {one === 'hold' ? 'Hold' : 'Smooth'}
          </button>
        ))}
      </div>
      <label className={`mt-3 block ${mode === 'smooth' ? '' : 'opacity-45'}`}>
        <span className="flex justify-between">
          <span>Smoothing</span>
          <span className="font-mono">{smoothSeconds.toFixed(2)} s</span>
        </span>
        <input
          type="range"
          className="range range-primary range-xs mt-1.5 w-full [--range-fill:0]"
          min={0}
          max={1}
          step={0.005}
          value={sliderOfSeconds(smoothSeconds)}
          disabled={mode !== 'smooth'}
          aria-label="Smoothing in seconds"
          aria-valuetext={`${smoothSeconds.toFixed(2)} seconds`}
          onChange={(event) =>
            changeSteady({ smoothSeconds: secondsOfSlider(Number(event.target.value)) }, 'Smoothing')
          }
        />
      </label>
      <fieldset className="mt-2.5">
        <legend className="mb-1.5 text-base-content/70">Take out</legend>
        <div className="grid grid-cols-4 gap-1">
          {channelNames.map(([channel, name]) => {
            const needsTwo = model === 'translation' && (channel === 'rotation' || channel === 'scale');
            return (
              <button
                key={channel}
                className={`btn btn-xs ${channels[channel] ? 'btn-secondary btn-soft' : 'btn-ghost border-base-300 text-base-content/75'}`}
                aria-pressed={channels[channel]}
                title={
                  needsTwo
                    ? `${name}: needs two tracks or more`
                    : `${channels[channel] ? 'Leave in' : 'Take out'} ${name.toLowerCase()}`
                }
                onClick={() =>
                  changeSteady({ channels: { ...channels, [channel]: !channels[channel] } }, 'Channels')
                }
              >
                {name}
              </button>
            );
          })}
        </div>
      </fieldset>
      <div className="mt-2.5 flex items-center justify-between">
        <span>Reference frame</span>
        <span className="flex items-center gap-1">
          <button
            className="btn btn-ghost btn-xs font-mono"
            title="Go there"
            onClick={() => go(referenceFrame)}
          >
            {referenceFrame}
          </button>
          <button
            className="btn btn-xs btn-square"
            aria-label="Take the frame shown as reference"
            title="Take the frame shown as reference (R)"
            onClick={() => changeSteady({ referenceFrame: usePlayhead.getState().frame }, 'Reference frame')}
          >
            <Crosshair size={13} />
          </button>
        </span>
      </div>
    </Section>
  );
}
