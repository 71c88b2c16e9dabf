import type { SteadyView } from '@lurn/contract';
import { edgeKinds, resamplingNames, unfilledKinds, type Resampling } from '@lurn/core';
import { useDocument } from '../state/document';
import { go } from '../state/editor';
import { changeSteady } from '../state/steadying';
import { PixelField } from '../ui/pixel-field';
import { Section } from './section';

type Size = NonNullable<SteadyView['output']>;

const presets: { name: string; size: Size }[] = [
  { name: 'Full HD', size: { width: 1920, height: 1080 } },
  { name: 'HD', size: { width: 1280, height: 720 } },
  { name: 'Square', size: { width: 1080, height: 1080 } },
  { name: 'Upright 9:16', size: { width: 1080, height: 1920 } },
  { name: 'Portrait 4:5', size: { width: 1080, height: 1350 } },
  { name: 'Cinema 2.39:1', size: { width: 1920, height: 804 } },
];

const edgeNames: Record<SteadyView['edge'], string> = {
  black: 'Black',
  transparent: 'Transparent',
  stretch: 'Stretched',
  mirror: 'Mirrored',
  blur: 'Blurred fill',
  fill: 'From other frames',
};

const resamplingWords: Record<SteadyView['resampling'], string> = {
  nearest: 'Nearest pixel',
  bilinear: 'Bilinear',
  bicubic: 'Bicubic',
  lanczos: 'Lanczos',
};

/** The size and shape of the output, what its bare edges show, and how pixels are taken. */
export function OutputPanel() {
  const steady = useDocument((s) => s.steady);
  const clip = useDocument((s) => s.clip);
  if (!steady || !clip) return null;
  const { output, edge, unfilled, resampling } = steady;
  const set = (size: Size | undefined): void => changeSteady({ output: size }, 'Output size');
  const preset =
    output && presets.findIndex(({ size }) => size.width === output.width && size.height === output.height);
  return (
    <Section title="Output">
      <label className="flex items-center justify-between gap-2">
        <span>Size</span>
        <select
          className="select select-xs w-40"
          value={output ? `${preset}` : 'clip'}
          aria-label="Size and shape of the output"
          onChange={({ target: { value } }) => {
            if (value === 'clip') set(undefined);
            else set(presets.at(Number(value))?.size ?? evenSize(clip));
          }}
        >
          <option value="clip">
            As the clip, {clip.width}×{clip.height}
          </option>
          {presets.map(({ name, size }, i) => (
            <option key={name} value={i}>
              {name}, {size.width}×{size.height}
            </option>
          ))}
          <option value="-1">By hand</option>
        </select>
      </label>
      {output && (
        <div className="mt-1.5 flex items-center justify-end gap-1.5" data-testid="output-size">
          <PixelField
            {...sizes}
            label="Width of the output, pixels"
            value={output.width}
            onChange={(width) => set({ ...output, width })}
          />
          <span aria-hidden>×</span>
          <PixelField
            {...sizes}
            label="Height of the output, pixels"
            value={output.height}
            onChange={(height) => set({ ...output, height })}
          />
        </div>
      )}
      <Choice
        label="Bare edges"
        value={edge}
        choices={edgeKinds}
        names={edgeNames}
        onChange={(value) => changeSteady({ edge: value }, 'Edges')}
      />
      {edge === 'fill' && (
        <Choice
          label="Where none fills"
          value={unfilled}
          choices={unfilledKinds}
          names={edgeNames}
          onChange={(value) => changeSteady({ unfilled: value }, 'Edges')}
        />
      )}
      <Choice
        label="Resampling"
        value={resampling}
        choices={Object.keys(resamplingNames) as Resampling[]}
        names={resamplingWords}
        onChange={(value) => changeSteady({ resampling: value }, 'Resampling')}
      />
      <Headroom />
    </Section>
  );
}

/** What a side of the output may be. */
const sizes = { least: 16, most: 16384, step: 2, className: 'input-xs w-18' };

const evenSize = ({ width, height }: Size): Size => ({
  width: 2 * Math.floor(width / 2),
  height: 2 * Math.floor(height / 2),
});

interface ChoiceProps<T extends string> {
  label: string;
  value: T;
  choices: readonly T[];
  names: Record<T, string>;
  onChange: (value: T) => void;
}

function Choice<T extends string>({ label, value, choices, names, onChange }: ChoiceProps<T>) {
  return (
    <label className="mt-2 flex items-center justify-between gap-2">
      <span>{label}</span>
      <select
        className="select select-xs w-40"
        value={value}
        aria-label={label}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {choices.map((one) => (
          <option key={one} value={one}>
            {names[one]}
          </option>
        ))}
      </select>
    </label>
  );
}

/** How many pixels of the source there are for one of the output, and where there is less than one. */
function Headroom() {
  const report = useDocument((s) => s.result?.report);
  if (!report) return null;
  const { sharpest, coarse } = report;
  return (
    <p className="mt-2 text-[11.5px] leading-snug text-base-content/75" data-testid="headroom">
      {sharpest.pixels.toFixed(2)} source pixels to an output pixel at least, on{' '}
      <button className="link" onClick={() => go(sharpest.frame)}>
        frame {sharpest.frame}
      </button>
      {coarse > 0 ? `; less than one on ${coarse === 1 ? 'one frame' : `${coarse} frames`}.` : '.'}
    </p>
  );
}
