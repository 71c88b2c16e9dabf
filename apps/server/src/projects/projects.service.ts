import { randomUUID } from 'node:crypto';
import {
  Inject,
  Injectable,
  NotFoundException,
  type OnApplicationBootstrap,
  type OnApplicationShutdown,
} from '@nestjs/common';
import type { ProjectCard, ProjectView } from '@lurn/contract';
import { and, asc, count, eq, isNotNull, isNull, lt } from 'drizzle-orm';
import { ClipsService, regretTime, type ClipRow } from '../clips/clips.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { clips, projects } from '../database/schema.js';

/** Milliseconds between clearings of what was deleted. */
const clearEvery = 600e3;

@Injectable()
export class ProjectsService implements OnApplicationBootstrap, OnApplicationShutdown {
  private clearing: NodeJS.Timeout | undefined;

  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly clips: ClipsService,
  ) {}

  onApplicationBootstrap(): void {
    this.clearing = setInterval(() => void this.purge(), clearEvery);
  }

  onApplicationShutdown(): void {
    clearInterval(this.clearing);
  }

  async list(): Promise<ProjectCard[]> {
    return this.database
      .select({ id: projects.id, name: projects.name, createdAt: projects.createdAt, clips: count(clips.id) })
      .from(projects)
      .leftJoin(clips, and(eq(clips.projectId, projects.id), isNull(clips.removedAt)))
      .where(isNull(projects.removedAt))
      .groupBy(projects.id)
      .orderBy(asc(projects.createdAt));
  }

  async view(id: string): Promise<ProjectView> {
    const [project] = await this.database.select().from(projects).where(eq(projects.id, id));
    if (!project || project.removedAt) throw new NotFoundException('There is no such project.');
    return { id, name: project.name, clips: await this.clips.cardsOf(id) };
  }

  async create(name: string): Promise<ProjectView> {
    const id = randomUUID();
    await this.database.insert(projects).values({ id, name, createdAt: new Date().toISOString() });
    return this.view(id);
  }

  async rename(id: string, name: string): Promise<ProjectView> {
    await this.view(id);
    await this.database.update(projects).set({ name }).where(eq(projects.id, id));
    return this.view(id);
  }

  /** Clips as they are stored, those put away left out. */
  clipRows(id: string): Promise<ClipRow[]> {
    return this.database
      .select()
      .from(clips)
      .where(and(eq(clips.projectId, id), isNull(clips.removedAt)));
  }

  /** Puts a project away; for a while it can be brought back, with all its clips. */
  async remove(id: string): Promise<void> {
    await this.view(id);
    await this.database
      .update(projects)
      .set({ removedAt: new Date().toISOString() })
      .where(eq(projects.id, id));
  }

  async restore(id: string): Promise<ProjectView> {
    await this.database.update(projects).set({ removedAt: null }).where(eq(projects.id, id));
    return this.view(id);
  }

  /** Deletes for good what was put away before a time. */
  async purge(before = new Date(Date.now() - regretTime)): Promise<void> {
    const old = await this.database
      .select({ id: projects.id })
      .from(projects)
      .where(and(isNotNull(projects.removedAt), lt(projects.removedAt, before.toISOString())));
    for (const { id } of old) await this.erase(id);
    await this.clips.purge(before);
  }

  /** Deletes a project for good, with all its clips. */
  async erase(id: string): Promise<void> {
    const own = await this.database.select({ id: clips.id }).from(clips).where(eq(clips.projectId, id));
    for (const clip of own) await this.clips.erase(clip.id);
    await this.database.delete(projects).where(eq(projects.id, id));
  }
}
