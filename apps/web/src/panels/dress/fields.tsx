import type { Colour } from '@lurn/core';
import type { ReactNode } from 'react';
import { useDocument } from '../../state/document';
import { PixelField } from '../../ui/pixel-field';

/** A setting beside its name. */
export function Named({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </label>
  );
}

interface FrameSpanProps {
  label: string;
  /** What is seen on these frames, as the fields' labels say it. */
  of: string;
  first: number;
  last: number;
  onChange: (part: { first: number } | { last: number }) => void;
}

/** The frames on which something is seen, both included. */
export function FrameSpan({ label, of, first, last, onChange }: FrameSpanProps) {
  const frames = useDocument((s) => s.clip?.frames ?? 1);
  return (
    <Named label={label}>
      <span className="flex items-center gap-1.5">
        <PixelField
          label={`First frame of the ${of}`}
          value={first}
          least={0}
          most={last}
          step={1}
          className="input-xs w-18"
          onChange={(value) => onChange({ first: value })}
        />
        to
        <PixelField
          label={`Last frame of the ${of}`}
          value={last}
          least={first}
          most={frames - 1}
          step={1}
          className="input-xs w-18"
          onChange={(value) => onChange({ last: value })}
        />
      </span>
    </Named>
  );
}

interface SliderProps {
  label: string;
  value: number;
  text: string;
  least?: number;
  most: number;
  onChange: (value: number) => void;
}

/** A setting along a line, its value beside it. */
export function Slider({ label, value, text, least = 0, most, onChange }: SliderProps) {
  return (
    <label className="grid grid-cols-[76px_1fr_48px] items-center gap-2">
      <span>{label}</span>
      <input
        type="range"
        className="range range-secondary range-xs w-full [--range-fill:0]"
        min={least}
        max={most}
        step={(most - least) / 200}
        value={value}
        aria-label={label}
        aria-valuetext={text}
        onChange={(event) => onChange(Number(event.target.value))}
      />
      <span className="text-right font-mono text-[11.5px]">{text}</span>
    </label>
  );
}

const hex = (colour: Colour): string =>
  `#${colour
    .map((v) =>
      Math.round(255 * v)
        .toString(16)
        .padStart(2, '0'),
    )
    .join('')}`;
const colourIn = (text: string): Colour =>
  [1, 3, 5].map((at) => parseInt(text.slice(at, at + 2), 16) / 255) as unknown as Colour;

export function ColourField({
  label,
  value,
  onChange,
}: {
  label: string;
  value: Colour;
  onChange: (v: Colour) => void;
}) {
  return (
    <Named label={label}>
      <input
        type="color"
        className="h-6 w-12 rounded-field"
        value={hex(value)}
        aria-label={label}
        onChange={({ target }) => onChange(colourIn(target.value))}
      />
    </Named>
  );
}
