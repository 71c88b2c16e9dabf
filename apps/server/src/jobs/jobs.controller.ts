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
import { JobsService } from './jobs.service.js';

@ApiTags('jobs')
@Controller('jobs')
export class JobsController {
  constructor(private readonly jobs: JobsService) {}

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
  again(@Param('id') id: string): Promise<void> {
    return this.jobs.again(id);
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
