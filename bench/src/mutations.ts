import { readdirSync, readFileSync } from 'node:fs';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { makeStripClip } from '@lurn/media/testing';
import { LiveServer } from './live-server.js';
import { addRow, beginTable, type Table } from './tables.js';

const x264 = ['-c:v', 'libx264', '-preset', 'ultrafast', '-g', '8', '-pix_fmt', 'yuv420p', '-c:a', 'aac'];
const sources = [
  { name: 'a.mp4', encode: [...x264, '-movflags', '+faststart'] },
  { name: 'b.mkv', encode: x264 },
  {
    name: 'c.webm',
    encode: ['-c:v', 'libvpx-vp9', '-deadline', 'realtime', '-cpu-used', '8', '-pix_fmt', 'yuv420p'],
  },
  { name: 'd.ts', encode: ['-c:v', 'mpeg2video', '-q:v', '4', '-pix_fmt', 'yuv420p'] },
  { name: 'e.avi', encode: ['-c:v', 'mpeg4', '-q:v', '4', '-pix_fmt', 'yuv420p'] },
  { name: 'f.mov', encode: ['-c:v', 'prores_ks', '-profile:v', '0', '-pix_fmt', 'yuv422p10le'] },
  { name: 'g.mxf', encode: ['-c:v', 'dnxhd', '-profile:v', 'dnxhr_lb', '-pix_fmt', 'yuv422p'] },
];
const side = 3;
/** No answer within so many milliseconds counts as a hang. */
const patience = 120_000;

/** Damages a file as disks, networks and malice do: bits flipped, parts cut off, swapped, emptied. */
function mutate(file: Buffer, random: (below: number) => number): Buffer {
  const out = Buffer.from(file);
  // Headers lie at the start: half of the damage is done there.
  const place = (): number => (random(2) ? random(out.length) : random(Math.min(out.length, 2048)));
  switch (random(4)) {
    case 0:
      for (let n = 1 + random(64); n > 0; n--) out[place()] ^= 1 << random(8);
      return out;
    case 1:
      return out.subarray(0, random(out.length));
    case 2: {
      const length = 1 + random(Math.min(4096, out.length >> 2));
      const [a, b] = [random(out.length - length), random(out.length - length)];
      const kept = Buffer.from(out.subarray(a, a + length));
      out.copyWithin(a, b, b + length);
      kept.copy(out, b);
      return out;
    }
    default: {
      const from = place();
      return out.fill(random(2) ? 0 : 255, from, Math.min(out.length, from + 1 + random(8192)));
    }
  }
}

/** Damaged files through the real server's import: it lives, answers each, and leaves no process behind. */
export async function benchMutations(count: number): Promise<Table[]> {
  const folder = await mkdtemp(join(tmpdir(), 'lurn-mutations-'));
  const server = await LiveServer.start(4896);
  try {
    const files = await Promise.all(
      sources.map(async ({ name, encode }) => {
        const path = join(folder, name);
        await makeStripClip({ path, frames: 16, width: 256, height: 144, encode });
        return { name, data: await readFile(path) };
      }),
    );
    const { id: projectId } = await server.project('Mutations');
    const outcomes: Record<string, number> = {};
    let [slowest, seed, next] = [0, 20_261, 0];
    const random = (below: number): number => {
      seed = (Math.imul(seed, 1664525) + 1013904223) >>> 0;
      return Math.floor((seed / 2 ** 32) * below);
    };
    const work = async (): Promise<void> => {
      while (next < count) {
        const n = next++;
        const { name, data } = files[n % files.length];
        const path = join(folder, `${n}-${name}`);
        await writeFile(path, mutate(data, random));
        const start = performance.now();
        const outcome = await Promise.race([
          importOne(server, projectId, path),
          new Promise<string>((resolve) => setTimeout(resolve, patience, 'HUNG').unref()),
        ]);
        slowest = Math.max(slowest, performance.now() - start);
        outcomes[outcome] = (outcomes[outcome] ?? 0) + 1;
        await rm(path);
      }
    };
    await Promise.all(Array.from({ length: side }, work));
    const columns = ['of damaged files', 'count'];
    const table = beginTable('mutations', 'Damaged files through import', columns);
    for (const [outcome, times] of Object.entries(outcomes)) addRow(table, outcome, times);
    addRow(table, 'the slowest answer', `${(slowest / 1000).toFixed(1)} s`);
    const left = childrenOf(server.pid);
    addRow(table, 'the server', (await server.isWell()) ? 'well' : 'NOT WELL');
    addRow(table, 'processes left behind', left);
    return [table];
  } finally {
    await server.stop();
    await rm(folder, { recursive: true, force: true });
  }
}

async function importOne(server: LiveServer, projectId: string, path: string): Promise<string> {
  const { status, body } = await server.upload(projectId, path);
  if (status >= 500) return `ERROR ${status}`;
  if (status >= 400) return 'refused';
  const { state, error, id } = await server.read(body.id);
  await server.ask(`/clips/${id}`, { method: 'DELETE' });
  if (state === 'failed') return 'could not be read';
  return error ? 'read, damage said' : 'read';
}

/** Processes whose parent this is. */
function childrenOf(pid: number | undefined): number {
  return readdirSync('/proc').filter((name) => {
    if (!/^\d+$/.test(name)) return false;
    try {
      return Number(readFileSync(`/proc/${name}/stat`, 'utf8').split(') ')[1].split(' ')[1]) === pid;
    } catch {
      return false;
    }
  }).length;
}
