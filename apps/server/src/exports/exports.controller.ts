import { Controller, Get, NotFoundException, Param, Res } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import { ClipFiles } from '../clips/clip-files.js';
import { JobsService } from '../jobs/jobs.service.js';

@ApiTags('exports')
@Controller('exports')
export class ExportsController {
  constructor(
    private readonly jobs: JobsService,
    private readonly files: ClipFiles,
  ) {}

  @Get(':id/file')
  @ApiOperation({ summary: 'Download an exported movie' })
  async file(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const job = await this.jobs.find(id);
    if (job?.kind !== 'export' || job.state !== 'done')
      throw new NotFoundException('There is no such export.');
    response.download(this.files.movie(job.id), job.fileName ?? 'steadied.mp4', { dotfiles: 'allow' });
  }
}
