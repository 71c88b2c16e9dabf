import { Body, Controller, Delete, Param, ParseIntPipe, Patch, Put } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { PlaceRequest, TrackPatch, type ClipChange } from '@lurn/contract';
import { TracksService } from './tracks.service.js';

@ApiTags('tracks')
@Controller('tracks')
export class TracksController {
  constructor(private readonly tracks: TracksService) {}

  @Patch(':id')
  @ApiOperation({ summary: 'Rename, hide, lock, leave out, resize the boxes' })
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
    @Body() place: PlaceRequest,
  ): Promise<ClipChange> {
    return this.tracks.setKey(id, frame, place);
  }

  @Delete(':id/keys/:frame')
  @ApiOperation({ summary: 'Remove the sample of one frame' })
  clear(@Param('id') id: string, @Param('frame', ParseIntPipe) frame: number): Promise<ClipChange> {
    return this.tracks.clearSample(id, frame);
  }
}
