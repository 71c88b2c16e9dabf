import { Controller, Get, Param, ParseIntPipe, Query } from '@nestjs/common';
import { ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { MediaEntry, MediaFolder } from '@lurn/contract';
import { MediaFoldersService } from './media-folders.service.js';

@ApiTags('media')
@Controller('media')
export class MediaController {
  constructor(private readonly folders: MediaFoldersService) {}

  @Get()
  @ApiOperation({ summary: 'Folders whose videos can be opened where they lie' })
  list(): Promise<MediaFolder[]> {
    return this.folders.list();
  }

  @Get(':folder')
  @ApiQuery({ name: 'path', required: false })
  @ApiOperation({ summary: 'Folders and videos in one of them' })
  entries(@Param('folder', ParseIntPipe) folder: number, @Query('path') path = ''): Promise<MediaEntry[]> {
    return this.folders.entries(folder, String(path));
  }
}
