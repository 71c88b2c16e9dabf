import { Body, Controller, Delete, HttpCode, Param, ParseIntPipe, Patch, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { InterpolateRequest, KeyRequest, SpanRequest, TrackPatch, type ClipChange } from '@lurn/contract';
import { TracksService } from './tracks.service.js';

@ApiTags('tracks')
@Controller('tracks')
export class TracksController {
  constructor(private readonly tracks: TracksService) {}

  @Patch(':id')
  @ApiOperation({ summary: 'Rename, hide, lock, leave out, resize the boxes, choose how it is followed' })
  change(@Param('id') id: string, @Body() patch: TrackPatch): Promise<ClipChange> {
    return this.tracks.change(id, patch);
  }

  @Delete(':id')
  @ApiOperation({ summary: 'Delete a track' })
  remove(@Param('id') id: string): Promise<ClipChange> {
    return this.tracks.remove(id);
  }

  @Put(':id/keys/:frame')
  @ApiOperation({ summary: 'Place a key by hand' })
  setKey(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Body() place: KeyRequest,
  ): Promise<ClipChange> {
    return this.tracks.setKey(id, frame, place);
  }

  @Post(':id/clear')
  @HttpCode(200)
  @ApiOperation({ summary: 'Remove the samples of a span, keys too' })
  clear(@Param('id') id: string, @Body() span: SpanRequest): Promise<ClipChange> {
    return this.tracks.clear(id, span);
  }

  @Post(':id/interpolate')
  @HttpCode(200)
  @ApiOperation({ summary: 'Fill the frames between keys by a curve' })
  interpolate(@Param('id') id: string, @Body() request: InterpolateRequest): Promise<ClipChange> {
    return this.tracks.interpolate(id, request);
  }
}
