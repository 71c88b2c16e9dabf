import { readFile } from 'node:fs/promises';
import { FormatError, readMotionJson, reportOf, viewOf } from '@lurn/core';
import { indexWithProgress } from './follow.js';
import { withInput, type InputArguments } from './open-input.js';

/** Prints what a motion file's placements come to: shake before and after, and what the zoom costs. */
export const report = (
  path: string,
  args: InputArguments & { motion: string; json?: boolean },
): Promise<void> =>
  withInput(path, args, async (clip) => {
    const { pts } = await indexWithProgress(clip);
    const text = await readFile(args.motion, 'utf8');
    try {
      const motion = readMotionJson(text, { ...clip, frames: pts.length });
      const found = reportOf(motion, viewOf(clip, motion.output));
      if (args.json) return void console.log(JSON.stringify(found, null, 1));
      const { shakeBefore, shakeAfter, lost, softer, sharpest } = found;
      console.log(`Shake before    ${shakeBefore.toFixed(3)} px (RMS of the corners' second differences)`);
      console.log(`Shake after     ${shakeAfter.toFixed(3)} px`);
      console.log(`Picture lost    ${(100 * lost).toFixed(1)} %`);
      console.log(`Sharpness lost  ${(100 * softer).toFixed(1)} %`);
      console.log(
        `Sharpness       ${sharpest.pixels.toFixed(3)} source pixels to an output pixel, at least (frame ${sharpest.frame})`,
      );
    } catch (error) {
      if (error instanceof FormatError) throw new Error(`${args.motion}: ${error.message}`);
      throw error;
    }
  });
