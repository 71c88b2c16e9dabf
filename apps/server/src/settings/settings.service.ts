import { availableParallelism } from 'node:os';
import { Inject, Injectable } from '@nestjs/common';
import type { ExportPace, SettingsView } from '@lurn/contract';
import { eq } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { settings } from '../database/schema.js';
import { JobsService } from '../jobs/jobs.service.js';
import { SERVER_OPTIONS, type ServerOptions } from '../options.js';

/** What is chosen for the whole server. */
@Injectable()
export class SettingsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly jobs: JobsService,
    @Inject(SERVER_OPTIONS) private readonly options: ServerOptions,
  ) {}

  /** Puts the kept settings to work. */
  async apply(): Promise<void> {
    const [kept] = await this.database.select().from(settings).where(eq(settings.name, 'cores'));
    if (kept) this.jobs.useCores(Number(kept.value));
  }

  view(): SettingsView {
    return {
      cores: this.jobs.cores,
      mostCores: availableParallelism(),
      exportsFolder: this.options.exports,
    };
  }

  async setCores(cores: number): Promise<SettingsView> {
    const value = Math.min(cores, availableParallelism());
    await this.keep('cores', value);
    this.jobs.useCores(value);
    return this.view();
  }

  /** What exports have come to on this machine, by codec. */
  async paces(): Promise<Partial<Record<string, ExportPace>>> {
    const [kept] = await this.database.select().from(settings).where(eq(settings.name, 'paces'));
    return kept?.value ?? {};
  }

  /** Takes an export into account; of pictures in a folder the bytes are not known. */
  async keepPace(
    codec: string,
    { pixelsPerSecond, bitsPerPixel }: { pixelsPerSecond: number; bitsPerPixel: number | null },
  ): Promise<void> {
    const all = await this.paces();
    const before = all[codec];
    const bits = bitsPerPixel ?? before?.bitsPerPixel;
    if (bits === undefined) return;
    await this.keep('paces', { ...all, [codec]: { pixelsPerSecond, bitsPerPixel: bits } });
  }

  private async keep(name: string, value: unknown): Promise<void> {
    await this.database
      .insert(settings)
      .values({ name, value })
      .onConflictDoUpdate({ target: settings.name, set: { value } });
  }
}
