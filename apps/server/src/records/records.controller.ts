import { Controller, Get, NotFoundException, Param, StreamableFile } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { joinPages } from '@lurn/core';
import { kindOf } from './record-kinds.js';
import { RecordsService } from './records.service.js';

@ApiTags('records')
@Controller('records')
export class RecordsController {
  constructor(private readonly records: RecordsService) {}

  @Get(':id/:column')
  @ApiOperation({
    summary: 'Packed data of a record, such as the samples of a track: pages, each after number and length',
  })
  async pages(@Param('id') id: string, @Param('column') column: string): Promise<StreamableFile> {
    const [record] = await this.records.find([id]);
    if (!record || !(column in kindOf(record.kind).columns))
      throw new NotFoundException('There is no such packed data.');
    return new StreamableFile(joinPages(await this.records.pagesOf(id, column)));
  }
}
