import {
  ConflictException,
  Controller,
  Delete,
  Get,
  HttpCode,
  NotFoundException,
  Param,
  Post,
} from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { JobView } from '@lurn/contract';
import { ReadingService } from '../clips/reading.service.js';
import { ExportsService } from '../exports/exports.service.js';
import { TrackRunsService } from '../tracks/track-runs.service.js';
import { JobsService } from './jobs.service.js';

@ApiTags('jobs')
@Controller('jobs')
export class JobsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly runs: TrackRunsService,
    private readonly exports: ExportsService,
    private readonly reading: ReadingService,
  ) {}

  @Get(':id')
  @ApiOperation({ summary: 'How a job stands' })
  async get(@Param('id') id: string): Promise<JobView> {
    const job = await this.jobs.find(id);
    if (!job) throw new NotFoundException('There is no such job.');
    const { request: _, projectId: __, ...view } = job;
    return view;
  }

  @Post(':id/again')
  @ApiOperation({ summary: 'Start a job anew that was interrupted, called off, or failed' })
  async again(@Param('id') id: string): Promise<void> {
    const job = await this.jobs.find(id);
    if (!job) throw new NotFoundException('There is no such job.');
    if (job.state === 'running' || job.state === 'waiting')
      throw new ConflictException('This job is still going on.');
    if (job.kind === 'import') await this.reading.again(job.clipId);
    else if (job.kind === 'export') await this.exports.start(job.clipId);
    else if (job.request) await this.runs.start(job.clipId, job.request);
    else throw new ConflictException('This job cannot be started anew.');
  }

  @Delete(':id')
  @HttpCode(202)
  @ApiOperation({ summary: 'Call a job off; what it has found so far is kept' })
  async cancel(@Param('id') id: string): Promise<void> {
    if (this.jobs.cancel(id)) return;
    if (!(await this.jobs.find(id))) throw new NotFoundException('There is no such job.');
    throw new ConflictException('This job has ended already.');
  }
}
