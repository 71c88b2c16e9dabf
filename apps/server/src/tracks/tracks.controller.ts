import {
  Body,
  Controller,
  Delete,
  Get,
  HttpCode,
  Param,
  ParseIntPipe,
  Patch,
  Post,
  Put,
} from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import {
  CornersRequest,
  InterpolateRequest,
  KeyRequest,
  MoveKeyRequest,
  SpanRequest,
  TrackPatch,
  TracksCarryRequest,
  TracksInterpolateRequest,
  TracksJoinRequest,
  TracksPatchRequest,
  TracksRequest,
  TracksSmoothRequest,
  TracksSpanRequest,
  type ClipChange,
  type LeftOutView,
} from '@lurn/contract';
import { TrackRunsService } from './track-runs.service.js';
import { TracksService } from './tracks.service.js';

@ApiTags('tracks')
@Controller('tracks')
export class TracksController {
  constructor(
    private readonly tracks: TracksService,
    private readonly runs: TrackRunsService,
  ) {}

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

  @Post('duplicate')
  @ApiOperation({ summary: 'Copy tracks beside what they are' })
  duplicate(@Body() { trackIds }: TracksRequest): Promise<ClipChange> {
    return this.tracks.duplicate(trackIds);
  }

  @Post('join')
  @HttpCode(200)
  @ApiOperation({ summary: 'Make one track of several that followed the same feature piece by piece' })
  join(@Body() { trackIds, into }: TracksJoinRequest): Promise<ClipChange> {
    return this.tracks.join(trackIds, into);
  }

  @Post('carry')
  @HttpCode(200)
  @ApiOperation({ summary: 'Give tracks the motion of another as a start' })
  carry(@Body() { trackIds, from }: TracksCarryRequest): Promise<ClipChange> {
    return this.tracks.carry(trackIds, from);
  }

  @Post('smooth')
  @HttpCode(200)
  @ApiOperation({ summary: "Smooth tracks' own paths over a span; keys stay" })
  smooth(@Body() { trackIds, smooth }: TracksSmoothRequest): Promise<ClipChange> {
    return this.tracks.smooth(trackIds, smooth);
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

  @Put(':id/keys/:frame/corners')
  @ApiOperation({ summary: 'Place the corners of a region by hand' })
  setCorners(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Body() corners: CornersRequest,
  ): Promise<ClipChange> {
    return this.tracks.setCorners(id, frame, corners);
  }

  @Get(':id/frames/:frame/left-out')
  @ApiOperation({
    summary:
      'What of a region is left out on a frame, for it disagrees with the key; nothing where it has no place',
  })
  async leftOut(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
  ): Promise<LeftOutView | Record<string, never>> {
    return (await this.runs.leftOut(id, frame)) ?? {};
  }

  @Post(':id/keys/:frame/move')
  @HttpCode(200)
  @ApiOperation({ summary: 'Move a key to another frame' })
  moveKey(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Body() { to }: MoveKeyRequest,
  ): Promise<ClipChange> {
    return this.tracks.moveKey(id, frame, to);
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
