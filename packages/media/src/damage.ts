import { frameTime, isVariable, type ClipIndex } from './clip-index.js';
import type { Clip } from './clip.js';

/** What ffmpeg complains of when a file ends before its headers say so, and when pictures come out marred. */
const brokenOff = /ended prematurely|partial file/;
const marred = /error while decoding|Error at MB|Invalid NAL unit|corrupt|invalid data|concealing|damaged/i;

/** Collects, while a clip is read, what its decoder complains of. */
export class DamageWatch {
  private broken = false;
  private marred = false;

  take(line: string): void {
    this.broken ||= brokenOff.test(line);
    this.marred ||= marred.test(line);
  }

  /** One sentence on what of the clip cannot be had; null where all is well. */
  sentence(clip: Clip, index: ClipIndex): string | null {
    const { missing, first } = holes(clip, index);
    const short = this.broken ? cutShort(clip, index) : 0;
    const parts = [
      missing > 0 && `${counted(missing)} after frame ${first}`,
      short > 0 && `about ${counted(short)} at its end`,
    ].filter(Boolean);
    if (parts.length > 0) {
      const which = parts.join(' and ');
      return `This file is damaged: ${which} ${missing + short === 1 ? 'is' : 'are'} missing${this.marred ? ', others may be marred' : ''}.`;
    }
    if (this.broken) return 'This file is damaged: it breaks off before its end.';
    return this.marred ? 'This file is damaged: some of its pictures may be marred.' : null;
  }
}

const counted = (n: number): string => (n === 1 ? '1 frame' : `${n} frames`);

/** Frames that an even rate leaves places for, and the frame before the first such place. */
function holes({ frameRate }: Clip, index: ClipIndex): { missing: number; first: number } {
  const length = frameRate.denominator / frameRate.numerator;
  let missing = 0;
  let first = -1;
  let even = 0;
  for (let i = 1; i < index.pts.length; i++) {
    const steps = (frameTime(index, i) - frameTime(index, i - 1)) / length;
    if (Math.abs(steps - Math.round(steps)) < 0.1) even++;
    if (steps < 1.5) continue;
    missing += Math.round(steps) - 1;
    if (first < 0) first = i - 1;
  }
  // Only where all steps are whole ones is the rate even and a longer one a hole; and there must not be many.
  const isEven = even === index.pts.length - 1 && missing < index.pts.length / 4;
  return missing > 0 && isEven && isVariable(index, frameRate) ? { missing, first } : { missing: 0, first };
}

/** How many frames the headers promise beyond the last one. */
function cutShort({ duration, fileStart, frameRate }: Clip, index: ClipIndex): number {
  if (duration === null) return 0;
  const rate = frameRate.numerator / frameRate.denominator;
  const end = frameTime(index, index.pts.length - 1) - fileStart + 1 / rate;
  return Math.max(0, Math.round((duration - end) * rate));
}
