import { availableParallelism } from 'node:os';
import { Inject, Injectable } from '@nestjs/common';
import type { SettingsView } from '@lurn/contract';
import { eq } from 'drizzle-orm';
import { DATABASE, type Database } from '../database/database.js';
import { settings } from '../database/schema.js';
import { JobsService } from '../jobs/jobs.service.js';

/** What is chosen for the whole server. */
@Injectable()
export class SettingsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly jobs: JobsService,
  ) {}

  /** Puts the kept settings to work. */
  async apply(): Promise<void> {
    const [kept] = await this.database.select().from(settings).where(eq(settings.name, 'cores'));
    if (kept) this.jobs.useCores(Number(kept.value));
  }

  view(): SettingsView {
    return { cores: this.jobs.cores, mostCores: availableParallelism() };
  }

  async setCores(cores: number): Promise<SettingsView> {
    const value = Math.min(cores, availableParallelism());
    await this.database
      .insert(settings)
      .values({ name: 'cores', value })
      .onConflictDoUpdate({ target: settings.name, set: { value } });
    this.jobs.useCores(value);
    return this.view();
  }
}
