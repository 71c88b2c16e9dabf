import { randomUUID } from 'node:crypto';
import { Inject, Injectable, NotFoundException } from '@nestjs/common';
import type { ProjectCard, ProjectView } from '@lurn/contract';
import { asc, count, eq } from 'drizzle-orm';
import { ClipsService } from '../clips/clips.service.js';
import { DATABASE, type Database } from '../database/database.js';
import { clips, projects } from '../database/schema.js';

@Injectable()
export class ProjectsService {
  constructor(
    @Inject(DATABASE) private readonly database: Database,
    private readonly clips: ClipsService,
  ) {}

  async list(): Promise<ProjectCard[]> {
    return this.database
      .select({ id: projects.id, name: projects.name, createdAt: projects.createdAt, clips: count(clips.id) })
      .from(projects)
      .leftJoin(clips, eq(clips.projectId, projects.id))
      .groupBy(projects.id)
      .orderBy(asc(projects.createdAt));
  }

  async view(id: string): Promise<ProjectView> {
    const [project] = await this.database.select().from(projects).where(eq(projects.id, id));
    if (!project) throw new NotFoundException('There is no such project.');
    return { id, name: project.name, clips: await this.clips.cardsOf(id) };
  }

  async create(name: string): Promise<ProjectView> {
    const id = randomUUID();
    await this.database.insert(projects).values({ id, name, createdAt: new Date().toISOString() });
    return this.view(id);
  }

  async rename(id: string, name: string): Promise<ProjectView> {
    await this.database.update(projects).set({ name }).where(eq(projects.id, id));
    return this.view(id);
  }

  async remove(id: string): Promise<void> {
    const { clips } = await this.view(id);
    for (const clip of clips) await this.clips.remove(clip.id);
    await this.database.delete(projects).where(eq(projects.id, id));
  }
}
