import type { Colour } from '@lurn/core';
import type { ReactNode } from 'react';

/** A setting beside its name. */
export function Named({ label, children }: { label: string; children: ReactNode }) {
  return (
    <label className="flex items-center justify-between gap-2">
      <span>{label}</span>
      {children}
    </label>
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
