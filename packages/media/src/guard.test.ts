import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { caged, untrusted } from './guard.js';
import { MediaError, openClip, runTool, startFfmpeg } from './index.js';
import { makeStripClip } from './testing/strip-clip.js';

let folder: string;
let web: Server;
let asked = 0;
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'lurn-guard-'));
  web = createServer((_, response) => {
    asked++;
    response.end('nothing');
  });
  await new Promise<void>((resolve) => web.listen(0, '127.0.0.1', resolve));
  await makeStripClip({ path: join(folder, 'secret.mp4'), frames: 4 });
});
afterAll(async () => {
  web.close();
  await rm(folder, { recursive: true, force: true });
});

const address = (): string => `http://127.0.0.1:${(web.address() as AddressInfo).port}/clip.mp4`;
const secret = (): string => join(folder, 'secret.mp4');
const m3u = (target: string): string =>
  `#EXTM3U\n#EXT-X-TARGETDURATION:9\n#EXTINF:9,\n${target}\n#EXT-X-ENDLIST\n`;

describe('lists that point elsewhere', () => {
  test.each([
    ['local.m3u8', () => m3u(`file://${secret()}`)],
    ['local list.mp4', () => m3u(secret())],
    ['network.m3u8', () => m3u(address())],
    ['network list.mov', () => m3u(address())],
    ['concat.txt', () => `ffconcat version 1.0\nfile '${secret()}'\n`],
    ['concat.mkv', () => `ffconcat version 1.0\nfile '${secret()}'\n`],
    [
      'dash.mpd',
      () =>
        `<?xml version="1.0"?><MPD xmlns="urn:mpeg:dash:schema:mpd:2011" type="static"><Period><AdaptationSet><Representation id="1" mimeType="video/mp4"><BaseURL>${address()}</BaseURL></Representation></AdaptationSet></Period></MPD>`,
    ],
    ['session.sdp', () => 'v=0\no=- 0 0 IN IP4 127.0.0.1\nc=IN IP4 127.0.0.1\nm=video 9 RTP/AVP 96\n'],
  ])('%s is refused with a sentence, and nothing is fetched', async (name, text) => {
    const path = join(folder, name);
    await writeFile(path, text());
    await expect(openClip(path)).rejects.toThrow(MediaError);
    await expect(openClip(path)).rejects.toThrow(/"[^"]+" is (in none of the containers|not a video)/);
    expect(asked).toBe(0);
  });

  test('without the guard the same list would be followed', async () => {
    const path = join(folder, 'bait.m3u8');
    await writeFile(path, m3u(address()));
    const bare = ['-v', 'error', '-protocol_whitelist', 'file,http,tcp', '-i', path];
    await expect(runTool('ffprobe', bare)).rejects.toThrow();
    expect(asked).toBeGreaterThan(0);
  });
});

test('a picture larger than can be worked on is refused', async () => {
  const path = join(folder, 'huge.mkv');
  const size = ['-f', 'lavfi', '-i', 'color=s=9216x8192:r=1', '-frames:v', '1'];
  await runTool('ffmpeg', ['-v', 'error', ...size, '-c:v', 'ffv1', '-y', path]);
  const decode = runTool('ffmpeg', ['-v', 'error', ...untrusted(path), '-f', 'null', '-']);
  await expect(decode).rejects.toThrow();
});

test('ffmpeg runs without new rights and with bounded memory', async () => {
  const [command, args] = caged('ffmpeg', ['-version']);
  if (process.platform !== 'linux') return;
  expect([command, ...args]).toEqual(expect.arrayContaining(['ffmpeg', '-version']));
  const tool = startFfmpeg([
    '-f',
    'rawvideo',
    '-s',
    '16x16',
    '-pix_fmt',
    'gray',
    '-i',
    'pipe:0',
    '-f',
    'null',
    '-',
  ]);
  const status = async (name: string): Promise<string> =>
    readFile(`/proc/${tool.process.pid}/${name}`, 'utf8').catch(() => '');
  // The cage's own commands are replaced by ffmpeg within a few milliseconds.
  while (!(await status('cmdline')).startsWith('ffmpeg')) await new Promise((r) => setTimeout(r, 5));
  expect(await status('status')).toMatch(/NoNewPrivs:\s*1/);
  expect(await status('limits')).toMatch(/Max address space\s+\d+/);
  tool.process.kill('SIGKILL');
  await expect(tool.done).rejects.toThrow(/SIGKILL/);
});

test('a tool that hangs is ended', async () => {
  const tool = startFfmpeg(
    ['-f', 'rawvideo', '-s', '16x16', '-pix_fmt', 'gray', '-i', 'pipe:0', '-f', 'null', '-'],
    { stallAfter: 300 },
  );
  await expect(tool.done).rejects.toThrow('ffmpeg made no progress for 0.3 s.');
});
