/** An exact frame rate: `numerator / denominator` frames a second. */
export interface FrameRate {
  numerator: number;
  denominator: number;
}

/** Reads "30000/1001" or "25". Throws a RangeError on anything else. */
export function parseFrameRate(text: string): FrameRate {
  const match = /^(\d+)(?:\/(\d+))?$/.exec(text.trim());
  const numerator = Number(match?.[1]);
  const denominator = match?.[2] === undefined ? 1 : Number(match[2]);
  if (!match || numerator <= 0 || denominator <= 0) {
    throw new RangeError(`"${text}" is not a frame rate; write it like 25 or 30000/1001.`);
  }
  return { numerator, denominator };
}

export const formatFrameRate = (rate: FrameRate): string => `${rate.numerator}/${rate.denominator}`;

export const framesPerSecond = (rate: FrameRate): number => rate.numerator / rate.denominator;
