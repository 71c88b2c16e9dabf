import { spawnSync } from 'node:child_process';
import { heldToCores } from './cores.js';

// Files come from anywhere. A playlist would make ffmpeg open what it names, a picture of a million lines would
// take all memory: only containers that hold their own pictures are read, within limits.

/** Containers that are read, as people call them, and ffmpeg's names of their readers. */
const containers = {
  MP4: 'mov',
  MOV: 'mov',
  MKV: 'matroska',
  WebM: 'matroska',
  AVI: 'avi',
  'MPEG-TS': 'mpegts',
  'MPEG-PS': 'mpeg',
  MXF: 'mxf',
  Y4M: 'yuv4mpegpipe',
} as const;

export const containerNames = Object.keys(containers).join(', ');

/** A little more than 8K by 8K. */
const mostPixels = 8192 * 8640;

/** Opens a file that is not trusted: from the disk, as one of the containers, of bounded size. */
export const untrusted = (path: string): string[] => [
  ...['-protocol_whitelist', 'file,pipe'],
  ...['-format_whitelist', [...new Set(Object.values(containers))].join(',')],
  ...['-max_pixels', `${mostPixels}`, '-i', path],
];

/** Bytes of address space: threads and reference pictures of 8K fit, a runaway does not. */
const mostMemory = 12 * 2 ** 30;

/** Bytes of one written file: no proxy or movie comes near, a runaway does not fill the disk. */
const mostWritten = 500e9;

const limits = ['prlimit', `--as=${mostMemory}`, `--fsize=${mostWritten}`, '--core=0'];
const fewRights = ['setpriv', '--pdeathsig', 'KILL', '--no-new-privs'];

/**
 * Ways of running a tool with fewer rights, the strictest first: no new rights, none of root's powers but
 * opening files, no core dumps, bounded memory and output; and not a moment longer than whoever started it.
 */
const cages = [
  [...fewRights, '--inh-caps=-all', '--bounding-set=-all,+dac_override', ...limits],
  [...fewRights, ...limits],
  limits,
];

let cage: readonly string[] | undefined;

/** The command line of a tool in the strictest cage that this system has. */
export function caged(tool: string, args: readonly string[]): [string, string[]] {
  cage ??= cages.find(([command, ...rest]) => spawnSync(command, [...rest, 'true']).status === 0) ?? [];
  const [command, ...rest] = [...cage, ...heldToCores(), tool, ...args];
  return [command, rest];
}
