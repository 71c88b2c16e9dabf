import { spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';

const pageBytes = 4096;

/** Resident memory of a process and all its children, in bytes, from /proc. Shared pages count once a process. */
function treeBytes(root: number): number {
  const parents = new Map<number, number>();
  for (const name of readdirSync('/proc')) {
    if (!/^\d+$/.test(name)) continue;
    try {
      const stat = readFileSync(`/proc/${name}/stat`, 'utf8');
      parents.set(Number(name), Number(stat.slice(stat.lastIndexOf(')') + 2).split(' ')[1]));
    } catch {
      // It has ended since the folder was read.
    }
  }
  const belongs = (pid: number): boolean =>
    pid === root || (parents.has(pid) && belongs(parents.get(pid) as number));
  let bytes = 0;
  for (const pid of parents.keys()) {
    if (!belongs(pid)) continue;
    try {
      bytes += Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * pageBytes;
    } catch {
      // As above.
    }
  }
  return bytes;
}

/** Runs a command and returns the most memory its tree held at once, sampled every 50 ms. */
export function peakBytes(command: string, args: string[]): Promise<number> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: 'ignore' });
    let peak = 0;
    const watch = setInterval(() => (peak = Math.max(peak, treeBytes(child.pid as number))), 50);
    child.on('error', reject);
    child.on('exit', (code) => {
      clearInterval(watch);
      if (code === 0) resolve(peak);
      else reject(new Error(`${command} ended with code ${code}.`));
    });
  });
}
