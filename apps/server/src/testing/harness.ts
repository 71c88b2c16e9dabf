import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { INestApplication } from '@nestjs/common';
import type { ClipChange, ClipView, JobView, ProjectView } from '@lurn/contract';
import { Samples } from '@lurn/core';
import request from 'supertest';
import type { ServerOptions } from '../options.js';
import { createServer } from '../server.js';

const pause = (milliseconds: number): Promise<void> =>
  new Promise((resolve) => setTimeout(resolve, milliseconds));

/** Asks until there is an answer. */
export async function until<T>(ask: () => Promise<T | null | undefined | false>): Promise<T> {
  for (;;) {
    const answer = await ask();
    if (answer) return answer;
    await pause(30);
  }
}

/** A server of a test's own, on a folder of its own, with the words a test needs to talk to it. */
export class Harness {
  app!: INestApplication;
  project!: ProjectView;

  private constructor(
    readonly folder: string,
    private readonly options: Partial<ServerOptions>,
  ) {}

  /** `exports` names the folder below the test's own that pictures may go to. */
  static async start(options: Partial<ServerOptions> = {}, exports?: string): Promise<Harness> {
    const folder = await mkdtemp(join(tmpdir(), 'lurn-server-'));
    await writeFile(join(folder, 'index.html'), '<p>the page</p>');
    const harness = new Harness(folder, {
      ...options,
      exports: exports === undefined ? null : join(folder, exports),
    });
    await harness.restart();
    const { body } = await harness.api().post('/api/projects').send({ name: 'Crossing' }).expect(201);
    harness.project = body as ProjectView;
    return harness;
  }

  get data(): string {
    return join(this.folder, '.data');
  }

  api = () => request(this.app.getHttpServer());

  /** Starts the server, again if it runs already. */
  async restart(): Promise<void> {
    await (this.app as INestApplication | undefined)?.close();
    this.app = await createServer({
      data: this.data,
      host: '127.0.0.1',
      port: 0,
      token: null,
      media: [],
      exports: null,
      web: this.folder,
      ...this.options,
    });
    await this.app.init();
  }

  async end(): Promise<void> {
    await this.app.close();
    await rm(this.folder, { recursive: true, force: true });
  }

  async view(id: string): Promise<ClipView> {
    return (await this.api().get(`/api/clips/${id}`).expect(200)).body as ClipView;
  }

  /** Resolves when the clip has been read, or could not be. */
  read(id: string): Promise<ClipView> {
    return until(async () => {
      const clip = await this.view(id);
      return clip.state !== 'reading' && clip;
    });
  }

  async upload(path: string): Promise<ClipView> {
    const { body } = await this.api()
      .post(`/api/projects/${this.project.id}/clips`)
      .attach('file', path)
      .expect(201);
    return this.read(body.id as string);
  }

  job(id: string): Promise<JobView> {
    return until(async () => {
      const job = (await this.api().get(`/api/jobs/${id}`).expect(200)).body as JobView;
      return job.state !== 'running' && job.state !== 'waiting' && job;
    });
  }

  /** The project as a file; returns its path. */
  async packed(): Promise<string> {
    const { body } = await this.api()
      .get(`/api/projects/${this.project.id}/package`)
      .buffer(true)
      .parse((response, done) => {
        const parts: Buffer[] = [];
        response.on('data', (part: Buffer) => parts.push(part));
        response.on('end', () => done(null, Buffer.concat(parts)));
      });
    const path = join(this.folder, 'crossing.lurn.zip');
    await writeFile(path, body as Buffer);
    return path;
  }

  async place(clipId: string, x = 150, y = 100): Promise<string> {
    const { body } = await this.api()
      .post(`/api/clips/${clipId}/tracks`)
      .send({ x, y, frame: 0, search: { width: 81, height: 81 } })
      .expect(201);
    return (body as ClipChange).records[0].id;
  }

  async follow(clipId: string, trackId: string): Promise<JobView> {
    const { body } = await this.api()
      .post(`/api/clips/${clipId}/track-runs`)
      .send({ trackIds: [trackId], direction: 'forwards', from: 0 })
      .expect(201);
    return this.job((body as JobView).id);
  }
}

export function samplesOf(clip: ClipView, trackId: string): Samples {
  const samples = new Samples(clip.frames);
  for (const page of clip.pages) {
    if (page.id === trackId && page.bytes) samples.unpackPage(page.page, Buffer.from(page.bytes, 'base64'));
  }
  return samples;
}
