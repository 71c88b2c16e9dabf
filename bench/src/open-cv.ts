import { spawn, spawnSync } from 'node:child_process';
import { existsSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const python = existsSync('/usr/bin/python3') ? '/usr/bin/python3' : 'python3';

/** Whether OpenCV can be compared with; says so where it cannot. */
export function hasOpenCv(): boolean {
  const has = spawnSync(python, ['-c', 'import cv2'], { stdio: 'ignore' }).status === 0;
  if (!has) console.log('OpenCV is not installed (Debian: python3-opencv); the job is not compared.');
  return has;
}

/** Runs a script of this folder with OpenCV; returns what it printed. */
export async function withOpenCv(name: string, ...args: string[]): Promise<string> {
  const script = fileURLToPath(new URL(`../${name}`, import.meta.url));
  const { status, out, said } = await new Promise<{ status: number | null; out: string; said: string }>(
    (resolve) => {
      const child = spawn(python, [script, ...args], { stdio: ['ignore', 'pipe', 'pipe'] });
      const told = { out: '', said: '' };
      child.stdout.on('data', (part: Buffer) => (told.out += part.toString()));
      child.stderr.on('data', (part: Buffer) => (told.said += part.toString()));
      child.on('close', (code) => resolve({ status: code, ...told }));
    },
  );
  if (status !== 0) throw new Error(`The job with OpenCV failed: ${said}`);
  return out;
}
