import { spawn } from 'node:child_process';
import { readdirSync, readFileSync } from 'node:fs';

const pageBytes = 4096;

/** Resident memory in bytes: of our own processes, and of ffmpeg's. */
export interface Memory {
  own: number;
  ffmpeg: number;
}

const isFfmpeg = (pid: number): boolean => /^ff(mpeg|probe)/.test(readFileSync(`/proc/${pid}/comm`, 'utf8'));

/** Resident memory of a process and all its children, from /proc. Shared pages count once a process. */
function treeMemory(root: number): Memory {
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
  const memory: Memory = { own: 0, ffmpeg: 0 };
  for (const pid of parents.keys()) {
    if (!belongs(pid)) continue;
    try {
      const bytes = Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * pageBytes;
      memory[isFfmpeg(pid) ? 'ffmpeg' : 'own'] += bytes;
    } catch {
      // As above.
    }
  }
  return memory;
}

const treeBytes = (root: number): number => {
  const { own, ffmpeg } = treeMemory(root);
  return own + ffmpeg;
};

/** Watches the most memory that a process and its children hold at once. */
export class PeakWatch {
  peak = 0;
  private readonly timer: NodeJS.Timeout;

  constructor(root: number) {
    this.timer = setInterval(() => (this.peak = Math.max(this.peak, treeBytes(root))), 100);
  }

  reset(): void {
    this.peak = 0;
  }

  end(): void {
    clearInterval(this.timer);
  }
}

/** Memory of the largest page that a browser on this machine shows: its own, and its share of what it shares. */
export function rendererBytes(): number {
  let most = 0;
  for (const pid of readdirSync('/proc').filter((name) => /^\d+$/.test(name))) {
    try {
      if (!readFileSync(`/proc/${pid}/cmdline`, 'latin1').includes('--type=renderer')) continue;
      const kilobytes = /^Pss:\s+(\d+)/m.exec(readFileSync(`/proc/${pid}/smaps_rollup`, 'utf8'))?.[1];
      most = Math.max(most, Number(kilobytes ?? 0) * 1024);
    } catch {
      // It has ended since the folder was read.
    }
  }
  return most;
}

/** Runs a command and returns the most memory that our own processes in its tree, and ffmpeg's, held, sampled every 50 ms. */
export function peakMemory(command: string, args: string[]): Promise<Memory> {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { stdio: 'ignore' });
    const peak: Memory = { own: 0, ffmpeg: 0 };
    const watch = setInterval(() => {
      const { own, ffmpeg } = treeMemory(child.pid as number);
      peak.own = Math.max(peak.own, own);
      peak.ffmpeg = Math.max(peak.ffmpeg, ffmpeg);
    }, 50);
    child.on('error', reject);
    child.on('exit', (code) => {
      clearInterval(watch);
      if (code === 0) resolve(peak);
      else reject(new Error(`${command} ended with code ${code}.`));
    });
  });
}
