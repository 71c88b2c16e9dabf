import { Crosshair } from 'lucide-react';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { changeSteady } from '../state/steadying';
import { usePlayhead } from '../state/playhead';
import { Fold } from '../ui/fold';
import { percent } from '../ui/format';
import { Section } from './section';
import { ByHand } from './by-hand';
import { KeptSettings } from './kept-settings';
import { ModelChoice } from './model-choice';
import { RollingShutter } from './rolling-shutter';
import { Stretches } from './stretches';
import { TradeChart } from './trade-chart';
import { Wander } from './wander';

const channelNames = [
  ['x', 'x'],
  ['y', 'y'],
  ['rotation', 'Rotation'],
  ['scale', 'Scale'],
] as const;

const strengthNames = [...channelNames, ['perspective', 'Perspective']] as const;

// The slider's middle is a second and a bit: fine where it matters, five seconds at the end.
const secondsOfSlider = (share: number): number => Math.round(5 * share * share * 100) / 100;
const sliderOfSeconds = (seconds: number): number => Math.sqrt(Math.min(seconds, 5) / 5);

/** What is taken out of the motion. */
export function SteadyPanel() {
  const steady = useDocument((s) => s.steady);
  const model = useDocument((s) => s.result?.motion.model ?? 'translation');
  if (!steady) return null;
  const { mode, kind, smoothSeconds, channels, strength, referenceFrame } = steady;
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
      {mode === 'smooth' && (
        <div className="join mt-2 grid grid-cols-2" role="radiogroup" aria-label="Which path is wanted">
          {(['even', 'composed'] as const).map((one) => (
            <button
              key={one}
              role="radio"
              aria-checked={kind === one}
              className={`btn btn-xs join-item ${kind === one ? 'btn-secondary btn-soft' : ''}`}
              title={
                one === 'even'
                  ? 'A Gaussian: the same move, without the shake'
                  : 'Only stillness, steady moves and eases between them, as steady as the zoom leaves room for'
              }
              onClick={() => changeSteady({ kind: one }, 'Kind')}
            >
              {one === 'even' ? 'Even' : 'Composed'}
            </button>
          ))}
        </div>
      )}
      {mode === 'smooth' && kind === 'composed' ? (
        <TradeChart />
      ) : (
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
      )}
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
      <ModelChoice />
      <RollingShutter />
      <Fold name="How much of each">
        <div className="space-y-1 pt-1" data-testid="strengths">
          {strengthNames.map(([name, label]) => (
            <label key={name} className="grid grid-cols-[76px_1fr_44px] items-center gap-2">
              <span>{label}</span>
              <input
                type="range"
                className="range range-secondary range-xs w-full [--range-fill:0]"
                min={0}
                max={1}
                step={0.01}
                value={strength[name]}
                aria-label={`How much of ${label.toLowerCase()} is taken out`}
                aria-valuetext={percent(strength[name], 0)}
                onChange={(event) =>
                  changeSteady({ strength: { ...strength, [name]: Number(event.target.value) } }, 'Strength')
                }
              />
              <span className="text-right font-mono text-[11.5px]">{percent(strength[name], 0)}</span>
            </label>
          ))}
        </div>
      </Fold>
      {mode === 'smooth' && <Wander />}
      <Stretches />
      <ByHand />
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
      <KeptSettings />
    </Section>
  );
}
