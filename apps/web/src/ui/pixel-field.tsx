interface PixelFieldProps {
  label: string;
  value: number;
  least: number;
  most: number;
  /** What is typed is brought to the nearest multiple of it. */
  step?: number;
  className: string;
  onChange: (value: number) => void;
}

/** A number of pixels. What is typed counts when the hand leaves the field: half a number is none. */
export function PixelField({ label, value, least, most, step = 1, className, onChange }: PixelFieldProps) {
  return (
    <input
      key={value}
      type="number"
      className={`input text-right font-mono ${className}`}
      min={least}
      max={most}
      step={step === 1 ? undefined : step}
      defaultValue={value}
      aria-label={label}
      onBlur={({ target }) => {
        const next = step * Math.round(Number(target.value) / step);
        if (next >= least && next <= most) onChange(next);
        else target.value = `${value}`;
      }}
      onKeyDown={(event) => event.key === 'Enter' && event.currentTarget.blur()}
    />
  );
}
