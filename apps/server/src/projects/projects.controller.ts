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
  Sse,
  UnprocessableEntityException,
  UploadedFile,
  UseInterceptors,
  type MessageEvent,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiBody, ApiConsumes, ApiOperation, ApiTags } from '@nestjs/swagger';
import { NameRequest, type ClipCard, type ProjectCard, type ProjectView } from '@lurn/contract';
import type { Observable } from 'rxjs';
import { ClipsService } from '../clips/clips.service.js';
import { EventHub } from '../events/event-hub.js';
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

  @Patch(':id')
  @ApiOperation({ summary: 'Rename a project' })
  rename(@Param('id') id: string, @Body() { name }: NameRequest): Promise<ProjectView> {
    return this.projects.rename(id, name);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a project with all its clips' })
  remove(@Param('id') id: string): Promise<void> {
    return this.projects.remove(id);
  }

  @Post(':id/clips')
  @ApiOperation({ summary: 'Upload a clip; reading it starts at once' })
  @ApiConsumes('multipart/form-data')
  @ApiBody({ schema: { type: 'object', properties: { file: { type: 'string', format: 'binary' } } } })
  @UseInterceptors(FileInterceptor('file'))
  async upload(@Param('id') id: string, @UploadedFile() file: UploadedPart | undefined): Promise<ClipCard> {
    if (!file) throw new UnprocessableEntityException('No file came with the upload.');
    // Multipart names arrive as bytes read one by one; they are UTF-8.
    const name = Buffer.from(file.originalname, 'latin1').toString('utf8');
    return this.clips.take(id, file.path, name, file.size);
  }

  @Sse(':id/events')
  @ApiOperation({ summary: 'What happens in the project, as server-sent events; resumes after a break' })
  events(@Param('id') id: string, @Headers('last-event-id') lastId?: string): Observable<MessageEvent> {
    return this.hub.stream(id, lastId);
  }
}
