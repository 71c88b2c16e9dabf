import { rm } from 'node:fs/promises';
import { Body, Controller, Delete, Get, HttpCode, NotFoundException, Param, Post, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { SeveralExportsRequest, type ExportsView } from '@lurn/contract';
import { ClipFiles } from '../clips/clip-files.js';
import { sentenceOf } from '../failure.filter.js';
import { JobsService } from '../jobs/jobs.service.js';
import { ExportsService } from './exports.service.js';

@ApiTags('exports')
@Controller('exports')
export class ExportsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly files: ClipFiles,
    private readonly exports: ExportsService,
  ) {}

  @Get(':id/file')
  @ApiOperation({ summary: 'Download an exported movie' })
  async file(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const job = await this.jobs.find(id);
    if (job?.kind !== 'export' || job.state !== 'done' || job.fileName?.endsWith('/'))
      throw new NotFoundException('There is no such export.');
    response.download(this.files.movie(job.id), job.fileName ?? 'steadied.mp4', { dotfiles: 'allow' });
  }

  @Post()
  @ApiOperation({
    summary: 'Write the steadied movies of several clips, one after another, by the same settings',
  })
  async several(@Body() { clipIds, ...request }: SeveralExportsRequest): Promise<ExportsView> {
    const view: ExportsView = { jobs: [], refused: [] };
    for (const clipId of clipIds) {
      try {
        view.jobs.push(await this.exports.start(clipId, request));
      } catch (error) {
        const message = sentenceOf(error);
        if (message === null) throw error;
        view.refused.push({ clipId, message });
      }
    }
    return view;
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Clear an export that has ended, and its file' })
  async clear(@Param('id') id: string): Promise<void> {
    const job = await this.jobs.find(id);
    if (job?.kind !== 'export') throw new NotFoundException('There is no such export.');
    await this.jobs.forget(id);
    await rm(this.files.movie(id), { force: true });
  }
}
