import { Body, Controller, Delete, HttpCode, Param, ParseIntPipe, Patch, Post, Put } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import {
  InterpolateRequest,
  KeyRequest,
  SpanRequest,
  TrackPatch,
  TracksInterpolateRequest,
  TracksPatchRequest,
  TracksRequest,
  TracksSpanRequest,
  type ClipChange,
} from '@lurn/contract';
import { TracksService } from './tracks.service.js';

@ApiTags('tracks')
@Controller('tracks')
export class TracksController {
  constructor(private readonly tracks: TracksService) {}

  @Patch()
  @ApiOperation({ summary: 'Change several tracks of a clip alike' })
  changeAll(@Body() { trackIds, patch }: TracksPatchRequest): Promise<ClipChange> {
    return this.tracks.change(trackIds, patch);
  }

  @Post('delete')
  @HttpCode(200)
  @ApiOperation({ summary: 'Delete several tracks of a clip' })
  removeAll(@Body() { trackIds }: TracksRequest): Promise<ClipChange> {
    return this.tracks.remove(trackIds);
  }

  @Post('clear')
  @HttpCode(200)
  @ApiOperation({ summary: 'Remove the samples of a span from several tracks of a clip, keys too' })
  clearAll(@Body() { trackIds, span }: TracksSpanRequest): Promise<ClipChange> {
    return this.tracks.clear(trackIds, span);
  }

  @Post('interpolate')
  @HttpCode(200)
  @ApiOperation({ summary: 'Fill the frames between the keys of several tracks of a clip by a curve' })
  interpolateAll(@Body() { trackIds, fill }: TracksInterpolateRequest): Promise<ClipChange> {
    return this.tracks.interpolate(trackIds, fill);
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Rename, hide, lock, leave out, resize the boxes, choose how it is followed' })
  change(@Param('id') id: string, @Body() patch: TrackPatch): Promise<ClipChange> {
    return this.tracks.change([id], patch);
  }

  @Delete(':id')
  @ApiOperation({ summary: 'Delete a track' })
  remove(@Param('id') id: string): Promise<ClipChange> {
    return this.tracks.remove([id]);
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
    return this.tracks.clear([id], span);
  }

  @Post(':id/interpolate')
  @HttpCode(200)
  @ApiOperation({ summary: 'Fill the frames between keys by a curve' })
  interpolate(@Param('id') id: string, @Body() request: InterpolateRequest): Promise<ClipChange> {
    return this.tracks.interpolate([id], request);
  }
}
