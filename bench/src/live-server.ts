import { spawn, type ChildProcess } from 'node:child_process';
import { openAsBlob } from 'node:fs';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { basename, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { ClipCard, ProjectView } from '@lurn/contract';

const main = fileURLToPath(new URL('../../apps/server/dist/main.js', import.meta.url));

export const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** The real server on a data folder of its own, as a program talks to it. */
export class LiveServer {
  private process!: ChildProcess;

  private constructor(
    readonly folder: string,
    private readonly port: number,
  ) {}

  static async start(port: number): Promise<LiveServer> {
    const live = new LiveServer(await mkdtemp(join(tmpdir(), 'lurn-live-')), port);
    await live.again();
    return live;
  }

  get address(): string {
    return `http://127.0.0.1:${this.port}`;
  }

  /** Starts it on its folder, after it was killed. */
  async again(): Promise<void> {
    const env = { ...process.env, LURN_DATA: this.folder, LURN_PORT: `${this.port}`, LURN_LOG: 'silent' };
    this.process = spawn(process.execPath, [main], { stdio: 'ignore', env });
    while (!(await this.isWell())) await pause(50);
  }

  /** As a power cut would. */
  async kill(): Promise<void> {
    const ended = new Promise((resolve) => this.process.once('exit', resolve));
    this.process.kill('SIGKILL');
    await ended;
  }

  get pid(): number | undefined {
    return this.process.pid;
  }

  isWell(): Promise<boolean> {
    return fetch(`${this.address}/api/health`).then(
      (response) => response.ok,
      () => false,
    );
  }

  /** The answer, refusals too; throws where there is none. */
  async ask<T>(path: string, init?: RequestInit): Promise<{ status: number; body: T }> {
    const response = await fetch(`${this.address}/api${path}`, init);
    const text = await response.text();
    return { status: response.status, body: (text ? JSON.parse(text) : null) as T };
  }

  async project(name: string): Promise<ProjectView> {
    const headers = { 'content-type': 'application/json' };
    const body = JSON.stringify({ name });
    return (await this.ask<ProjectView>('/projects', { method: 'POST', headers, body })).body;
  }

  async upload(projectId: string, file: string): Promise<{ status: number; body: ClipCard }> {
    const form = new FormData();
    form.append('file', await openAsBlob(file), basename(file));
    return this.ask<ClipCard>(`/projects/${projectId}/clips`, { method: 'POST', body: form });
  }

  /** Resolves when the clip has been read, or could not be. */
  async read(id: string): Promise<ClipCard> {
    for (;;) {
      const { body } = await this.ask<ClipCard>(`/clips/${id}`);
      if (body.state === 'ready' || body.state === 'failed') return body;
      await pause(50);
    }
  }

  /** Takes in tracks of a lurn-tracks file. */
  async importTracks(clipId: string, file: string): Promise<void> {
    const headers = { 'content-type': 'application/vnd.lurn.tracks+json' };
    const { status, body } = await this.ask(`/clips/${clipId}/tracks/import`, {
      method: 'POST',
      headers,
      body: file,
    });
    if (status !== 201) throw new Error(JSON.stringify(body));
  }

  async stop(): Promise<void> {
    this.process.kill('SIGTERM');
    await new Promise((resolve) => this.process.once('exit', resolve));
    await rm(this.folder, { recursive: true, force: true });
  }
}
