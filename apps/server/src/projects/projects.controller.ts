import { randomUUID } from 'node:crypto';
import { rm } from 'node:fs/promises';
import {
  Body,
  Controller,
  Delete,
  Get,
  Headers,
  HttpCode,
  Param,
  Patch,
  Post,
  Query,
  Sse,
  StreamableFile,
  UnprocessableEntityException,
  UploadedFile,
  UseInterceptors,
  type MessageEvent,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiBody, ApiConsumes, ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import {
  NameRequest,
  OutsideRequest,
  SequenceRequest,
  type ClipCard,
  type ProjectCard,
  type ProjectView,
  type JobView,
  type UnfinishedUpload,
} from '@lurn/contract';
import type { Observable } from 'rxjs';
import { ClipsService } from '../clips/clips.service.js';
import { ReadingService } from '../clips/reading.service.js';
import { EventHub } from '../events/event-hub.js';
import { JobsService } from '../jobs/jobs.service.js';
import { MediaFoldersService } from '../media/media-folders.service.js';
import { UploadsService } from '../uploads/uploads.service.js';
import { PackageService } from './package.service.js';
import { ProjectsService } from './projects.service.js';

/** What multer says of a file it has written to the uploads folder. */
interface UploadedPart {
  path: string;
  originalname: string;
  size: number;
}

@ApiTags('projects')
@Controller('projects')
export class ProjectsController {
  constructor(
    private readonly projects: ProjectsService,
    private readonly clips: ClipsService,
    private readonly reading: ReadingService,
    private readonly packages: PackageService,
    private readonly folders: MediaFoldersService,
    private readonly uploads: UploadsService,
    private readonly jobs: JobsService,
    private readonly hub: EventHub,
  ) {}

  @Get()
  @ApiOperation({ summary: 'All projects, oldest first' })
  list(): Promise<ProjectCard[]> {
    return this.projects.list();
  }

  @Post()
  @ApiOperation({ summary: 'Start a project' })
  create(@Body() { name }: NameRequest): Promise<ProjectView> {
    return this.projects.create(name);
  }

  @Get(':id')
  @ApiOperation({ summary: 'A project and its clips' })
  view(@Param('id') id: string): Promise<ProjectView> {
    return this.projects.view(id);
  }

  @Get(':id/queue')
  @ApiOperation({
    summary: 'Exports of the project, and clips steadied as others are: going on, waiting, ended',
  })
  queue(@Param('id') id: string): Promise<JobView[]> {
    return this.jobs.ofProject(id, ['export', 'like']);
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Rename a project' })
  rename(@Param('id') id: string, @Body() { name }: NameRequest): Promise<ProjectView> {
    return this.projects.rename(id, name);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a project with all its clips; it can be restored for an hour' })
  remove(@Param('id') id: string): Promise<void> {
    return this.projects.remove(id);
  }

  @Post(':id/clips')
  @ApiOperation({ summary: 'Upload a clip; reading it starts at once' })
  @ApiQuery({ name: 'rate', required: false, description: 'Of a zip of pictures' })
  @ApiConsumes('multipart/form-data')
  @ApiBody({ schema: { type: 'object', properties: { file: { type: 'string', format: 'binary' } } } })
  @UseInterceptors(FileInterceptor('file'))
  async upload(
    @Param('id') id: string,
    @UploadedFile() file: UploadedPart | undefined,
    @Query('rate') rate?: string,
  ): Promise<ClipCard> {
    if (!file) throw new UnprocessableEntityException('No file came with the upload.');
    // Multipart names arrive as bytes read one by one; they are UTF-8.
    const name = Buffer.from(file.originalname, 'latin1').toString('utf8');
    const clipId = randomUUID();
    try {
      await this.reading.take(id, { path: file.path, name, bytes: file.size }, rate, clipId);
    } finally {
      await rm(file.path, { force: true });
    }
    return this.clips.cardOf(clipId);
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOperation({ summary: 'Bring a deleted project back' })
  restore(@Param('id') id: string): Promise<ProjectView> {
    return this.projects.restore(id);
  }

  @Post(':id/copies')
  @ApiOperation({ summary: 'Make a second project with all of this one' })
  duplicate(@Param('id') id: string): Promise<ProjectView> {
    return this.packages.duplicate(id);
  }

  @Get(':id/package')
  @ApiQuery({ name: 'media', required: false, description: '"1" to put the originals in' })
  @ApiOperation({ summary: 'The whole project as one zip of JSON and packed samples' })
  async package(@Param('id') id: string, @Query('media') media?: string): Promise<StreamableFile> {
    const { name, stream } = await this.packages.write(id, media === '1');
    return new StreamableFile(stream, {
      type: 'application/zip',
      disposition: `attachment; filename*=UTF-8''${encodeURIComponent(`${name}.lurn.zip`)}`,
    });
  }

  @Get(':id/uploads')
  @ApiOperation({ summary: 'Uploads that have begun and can be gone on with' })
  unfinished(@Param('id') id: string): Promise<UnfinishedUpload[]> {
    return this.uploads.unfinished(id);
  }

  @Post(':id/sequences')
  @ApiOperation({ summary: 'Make one clip of pictures that were uploaded one by one' })
  sequence(@Param('id') id: string, @Body() request: SequenceRequest): Promise<ClipCard> {
    return this.uploads.sequence(id, request);
  }

  @Post(':id/outside')
  @ApiOperation({ summary: 'Take a file in where it lies, from a folder the server was started with' })
  async outside(@Param('id') id: string, @Body() { folder, path }: OutsideRequest): Promise<ClipCard> {
    return this.reading.takeOutside(id, await this.folders.place(folder, path));
  }

  @Sse(':id/events')
  @ApiOperation({ summary: 'What happens in the project, as server-sent events; resumes after a break' })
  events(@Param('id') id: string, @Headers('last-event-id') lastId?: string): Observable<MessageEvent> {
    return this.hub.stream(id, lastId);
  }
}
