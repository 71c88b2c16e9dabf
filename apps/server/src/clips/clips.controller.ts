import {
  BadRequestException,
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  NotFoundException,
  Param,
  ParseBoolPipe,
  ParseFloatPipe,
  ParseIntPipe,
  Patch,
  Post,
  Query,
  Req,
  Res,
  StreamableFile,
  UnprocessableEntityException,
} from '@nestjs/common';
import { ApiConsumes, ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import {
  KeepSteadyRequest,
  NameRequest,
  NewRegionRequest,
  NewTrackRequest,
  NewTracksRequest,
  ReadAgainRequest,
  SteadyRequest,
  SuggestRequest,
  TrackRunRequest,
  TracksQuery,
  type ClipCard,
  type ClipChange,
  type ClipView,
  type JobView,
  type PlaceScoreView,
  type SuggestionView,
  ExportRequest,
  LayerRequest,
  SteadyLikeRequest,
  type ExportsView,
} from '@lurn/contract';
import {
  FormatError,
  guessMapping,
  readTable,
  readTrackTable,
  motionCsvKinds,
  writeMotionCsv,
  writeMotionJson,
  writeTrackMotionsCsv,
  writeTracksCsv,
  withCarriers,
  writeTracksJson,
  type ClipFacts,
  type NamedTrack,
} from '@lurn/core';
import { readTracksJson } from '@lurn/model';
import { packPatch, type Match, type RoundTrip } from '@lurn/core';
import { proxySize, readStill } from '@lurn/media';
import type { Request, Response } from 'express';
import { EditsService } from '../records/edits.service.js';
import { SteadyLikeService } from '../exports/steady-like.service.js';
import { ExportsService } from '../exports/exports.service.js';
import { SuggestionsService } from '../tracks/suggestions.service.js';
import { TrackRunsService } from '../tracks/track-runs.service.js';
import { TracksService } from '../tracks/tracks.service.js';
import { ClipFiles } from './clip-files.js';
import { ClipsService, type ClipRow } from './clips.service.js';
import { EarlyFrames } from './early-frames.js';
import { ReadingService } from './reading.service.js';

/** Types that tracks are sent as; JSON has one of its own, since it may be longer than a request. */
const trackFiles = ['text/csv', 'application/vnd.lurn.tracks+json'];

const SteadiedQuery = (): MethodDecorator =>
  ApiQuery({ name: 'steadied', required: false, type: Boolean, description: 'As it will be in the movie' });

@ApiTags('clips')
@Controller('clips')
export class ClipsController {
  constructor(
    private readonly clips: ClipsService,
    private readonly files: ClipFiles,
    private readonly reading: ReadingService,
    private readonly early: EarlyFrames,
    private readonly tracks: TracksService,
    private readonly runs: TrackRunsService,
    private readonly suggestions: SuggestionsService,
    private readonly exports: ExportsService,
    private readonly likes: SteadyLikeService,
    private readonly edits: EditsService,
  ) {}

  @Get(':id')
  @ApiOperation({ summary: 'A clip with all that was made of it' })
  view(@Param('id') id: string): Promise<ClipView> {
    return this.clips.view(id);
  }

  @Delete(':id')
  @HttpCode(204)
  @ApiOperation({ summary: 'Delete a clip; it can be restored for an hour' })
  remove(@Param('id') id: string): Promise<void> {
    return this.clips.remove(id);
  }

  @Patch(':id')
  @ApiOperation({ summary: 'Rename a clip' })
  rename(@Param('id') id: string, @Body() { name }: NameRequest): Promise<ClipCard> {
    return this.clips.rename(id, name);
  }

  @Post(':id/restore')
  @HttpCode(200)
  @ApiOperation({ summary: 'Bring a deleted clip back' })
  restore(@Param('id') id: string): Promise<ClipCard> {
    return this.clips.restore(id);
  }

  @Post(':id/read')
  @HttpCode(200)
  @ApiOperation({
    summary: 'Read a clip once more: after a failure or a change, or to take its fields apart',
  })
  readAgain(@Param('id') id: string, @Body() { asFields }: ReadAgainRequest): Promise<ClipCard> {
    return this.reading.again(id, asFields);
  }

  @Get(':id/early')
  @ApiOperation({ summary: 'How many frames of a clip that is still being read can be looked at' })
  earlyFrames(@Param('id') id: string): { frames: number } {
    return { frames: this.early.count(id) };
  }

  @Get(':id/early/:frame')
  @ApiOperation({ summary: 'One frame, as large as the proxy will be, of a clip that is still being read' })
  async earlyFrame(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
  ): Promise<StreamableFile> {
    const early = this.early.of(id);
    if (!early || frame < 0 || frame >= early.index.pts.length)
      throw new NotFoundException('This frame has not been read yet.');
    return new StreamableFile(
      await readStill(early.media, early.index, frame, { size: proxySize(early.media) }),
      jpeg,
    );
  }

  @Get(':id/proxy')
  @ApiOperation({ summary: 'The proxy, by byte ranges' })
  async proxy(@Param('id') id: string, @Res() response: Response): Promise<void> {
    await this.clips.ready(id);
    response.sendFile(this.files.proxy(id), {
      ...anyFolder,
      headers: { 'Content-Type': 'video/mp4', 'Cache-Control': 'private, max-age=3600' },
    });
  }

  @Get(':id/poster')
  @ApiOperation({ summary: 'One small picture of the clip' })
  async poster(@Param('id') id: string, @Res() response: Response): Promise<void> {
    await this.clips.ready(id);
    response.sendFile(this.files.poster(id), {
      ...anyFolder,
      headers: { 'Cache-Control': 'private, max-age=3600' },
    });
  }

  @Get(':id/frames/:frame')
  @Header('Cache-Control', 'private, max-age=3600')
  @ApiOperation({ summary: 'One frame at full size' })
  async still(@Param('id') id: string, @Param('frame', ParseIntPipe) frame: number): Promise<StreamableFile> {
    return new StreamableFile(await this.clips.still(await this.clips.readable(id), frame), jpeg);
  }

  @Get(':id/frames/:frame/still.png')
  @SteadiedQuery()
  @ApiOperation({ summary: 'One frame at full size as PNG, to be kept' })
  png(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Query('steadied', new ParseBoolPipe({ optional: true })) steadied = false,
  ): Promise<StreamableFile> {
    return this.kept(id, frame, 'png', steadied);
  }

  @Get(':id/frames/:frame/still.tiff')
  @SteadiedQuery()
  @ApiOperation({ summary: 'One frame at full size as TIFF, to be kept' })
  tiff(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Query('steadied', new ParseBoolPipe({ optional: true })) steadied = false,
  ): Promise<StreamableFile> {
    return this.kept(id, frame, 'tiff', steadied);
  }

  private async kept(
    id: string,
    frame: number,
    format: 'png' | 'tiff',
    steadied: boolean,
  ): Promise<StreamableFile> {
    const clip = await this.clips.readable(id);
    if (frame < 0 || frame >= clip.row.frames)
      throw new NotFoundException(`"${clip.row.name}" has frames 0 to ${clip.row.frames - 1}.`);
    const picture = steadied
      ? await this.exports.steadiedFrame(clip, frame, format)
      : await readStill(clip.media, clip.index, frame, { format });
    const name = `${stem(clip.row.name)}-${frame}${steadied ? '-steadied' : ''}.${format}`;
    return attachment(picture, `image/${format}`, name);
  }

  @Get(':id/matte')
  @ApiOperation({
    summary: 'What a clip with alpha covers, as a grey movie beside its proxy, by byte ranges',
  })
  async matte(@Param('id') id: string, @Res() response: Response): Promise<void> {
    response.sendFile(await this.clips.matte(await this.clips.readable(id)), {
      ...anyFolder,
      headers: { 'Content-Type': 'video/mp4', 'Cache-Control': 'private, max-age=3600' },
    });
  }

  @Get(':id/sound')
  @ApiOperation({ summary: "The clip's sound as AAC, by byte ranges" })
  async sound(@Param('id') id: string, @Res() response: Response): Promise<void> {
    const path = await this.clips.sound(await this.clips.readable(id));
    response.sendFile(path, {
      ...anyFolder,
      headers: { 'Content-Type': 'audio/mp4', 'Cache-Control': 'private, max-age=3600' },
    });
  }

  @Post(':id/tracks')
  @ApiOperation({ summary: 'Place a point track' })
  addTrack(@Param('id') id: string, @Body() request: NewTrackRequest): Promise<ClipChange> {
    return this.tracks.add(id, request);
  }

  @Post(':id/tracks/many')
  @ApiOperation({ summary: 'Place several point tracks at once' })
  addTracks(@Param('id') id: string, @Body() request: NewTracksRequest): Promise<ClipChange> {
    return this.tracks.addMany(id, request);
  }

  @Post(':id/regions')
  @ApiOperation({ summary: 'Draw a flat area to be followed whole' })
  addRegion(@Param('id') id: string, @Body() request: NewRegionRequest): Promise<ClipChange> {
    return this.tracks.addRegion(id, request);
  }

  @Post(':id/tracks/import')
  @ApiConsumes(...trackFiles)
  @ApiOperation({ summary: 'Take tracks in: lurn-tracks JSON, or CSV with the columns that we write' })
  async importTracks(@Param('id') id: string, @Req() { body }: Request): Promise<ClipChange> {
    const { row, media } = await this.clips.ready(id);
    const text: unknown = body;
    if (typeof text !== 'string')
      throw new UnprocessableEntityException(`Tracks are sent as ${trackFiles.join(' or ')}.`);
    return this.tracks.takeIn(id, readTracks(text, { ...media, frames: row.frames }));
  }

  @Post(':id/suggestions')
  @HttpCode(200)
  @ApiOperation({ summary: 'The places of a frame that are best followed' })
  suggest(@Param('id') id: string, @Body() request: SuggestRequest): Promise<SuggestionView[]> {
    return this.suggestions.suggest(id, request);
  }

  @Get(':id/frames/:frame/score')
  @ApiOperation({ summary: 'How well a place can be followed' })
  score(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Query('x', ParseFloatPipe) x: number,
    @Query('y', ParseFloatPipe) y: number,
  ): Promise<PlaceScoreView> {
    return this.suggestions.judge(id, frame, { x, y });
  }

  @Post(':id/frames/:frame/warm')
  @HttpCode(204)
  @ApiOperation({ summary: 'Have the frames about this one ready for steps by hand' })
  warm(@Param('id') id: string, @Param('frame', ParseIntPipe) frame: number): Promise<void> {
    return this.suggestions.warm(id, frame);
  }

  @Post(':id/track-runs')
  @ApiOperation({ summary: 'Follow tracks from a frame' })
  run(@Param('id') id: string, @Body() request: TrackRunRequest): Promise<JobView> {
    return this.runs.start(id, request);
  }

  @Patch(':id/steady')
  @ApiOperation({ summary: 'Choose what to take out and how to frame it' })
  steady(@Param('id') id: string, @Body() { steady, label }: SteadyRequest): Promise<ClipChange> {
    return this.clips.setSteady(id, steady, label);
  }

  @Post(':id/kept')
  @ApiOperation({ summary: 'Keep what is chosen about steadying by a name' })
  keep(@Param('id') id: string, @Body() { name }: KeepSteadyRequest): Promise<ClipChange> {
    return this.clips.keepSteady(id, name);
  }

  @Delete(':id/kept/:kept')
  @ApiOperation({ summary: 'Drop settings that were kept' })
  drop(@Param('id') id: string, @Param('kept') kept: string): Promise<ClipChange> {
    return this.clips.dropSteady(id, kept);
  }

  @Post(':id/undo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Take the last edit back' })
  undo(@Param('id') id: string): Promise<ClipChange> {
    return this.edits.inTurn(id, () => this.edits.undo(id));
  }

  @Post(':id/redo')
  @HttpCode(200)
  @ApiOperation({ summary: 'Do again what was taken back' })
  redo(@Param('id') id: string): Promise<ClipChange> {
    return this.edits.inTurn(id, () => this.edits.redo(id));
  }

  @Post(':id/exports')
  @ApiOperation({ summary: 'Write the steadied movie' })
  export(@Param('id') id: string, @Body() request: ExportRequest): Promise<JobView> {
    return this.exports.start(id, request);
  }

  @Get(':id/frames/:frame/around/:layerId')
  @ApiOperation({
    summary: 'What is about a layer on a frame: softness, grain, black and white, for it to sit there',
  })
  around(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Param('layerId') layerId: string,
  ): Promise<Match> {
    return this.exports.around(id, frame, layerId);
  }

  @Post(':id/frames/:frame/patch')
  @HttpCode(200)
  @Header('Content-Type', 'application/octet-stream')
  @Header('Cache-Control', 'no-store')
  @ApiOperation({
    summary:
      'What a layer, stored or not, fills in or repairs on a frame, as it is where it was drawn: width and height as two 32-bit numbers, lowest byte first, then red, green, blue and alpha of each pixel',
  })
  async patch(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Body() { layer }: LayerRequest,
  ): Promise<StreamableFile> {
    return new StreamableFile(packPatch(await this.exports.patch(id, layer, frame)));
  }

  @Post(':id/frames/:frame/round-trip')
  @HttpCode(200)
  @ApiOperation({
    summary:
      'What a frame loses, in the box of a fill or a repair, on its way to where that was drawn and back',
  })
  roundTrip(
    @Param('id') id: string,
    @Param('frame', ParseIntPipe) frame: number,
    @Body() { layer }: LayerRequest,
  ): Promise<RoundTrip> {
    return this.exports.roundTrip(id, layer, frame);
  }

  @Post(':id/like')
  @ApiOperation({
    summary: 'Steady other clips as this one is: the same choices, found and followed anew in each',
  })
  like(@Param('id') id: string, @Body() request: SteadyLikeRequest): Promise<ExportsView> {
    return this.likes.several(id, request);
  }

  @Get(':id/tracks.json')
  @ApiOperation({ summary: 'The tracks as lurn-tracks JSON: all, or those and the frames that are named' })
  @ApiQuery({ name: 'tracks', required: false, description: 'Ids, with commas between them' })
  @ApiQuery({ name: 'first', required: false, type: Number })
  @ApiQuery({ name: 'last', required: false, type: Number })
  async tracksJson(@Param('id') id: string, @Query() query: TracksQuery): Promise<StreamableFile> {
    const { row, media } = await this.clips.ready(id);
    const text = writeTracksJson({ ...media, frames: row.frames }, await this.someTracks(row, query));
    return attachment(text, 'application/json', `${stem(row.name)}-tracks.json`);
  }

  @Get(':id/tracks.csv')
  @ApiOperation({
    summary: 'The tracks as comma-separated values: all, or those and the frames that are named',
  })
  @ApiQuery({ name: 'tracks', required: false, description: 'Ids, with commas between them' })
  @ApiQuery({ name: 'first', required: false, type: Number })
  @ApiQuery({ name: 'last', required: false, type: Number })
  async tracksCsv(@Param('id') id: string, @Query() query: TracksQuery): Promise<StreamableFile> {
    const { row } = await this.clips.ready(id);
    const text = writeTracksCsv(await this.someTracks(row, query), row.media);
    return attachment(text, 'text/csv; charset=utf-8', `${stem(row.name)}-tracks.csv`);
  }

  /** Tracks that are asked for, without their samples beside the frames that are. */
  private async someTracks(
    { id, frames }: ClipRow,
    { tracks, first = 0, last = frames - 1 }: TracksQuery,
  ): Promise<NamedTrack[]> {
    const found = await this.clips.namedTracks(id, frames, { ids: tracks?.split(',') });
    const names = new Map((await this.clips.tracksOf(id)).map((track) => [track.id, track.name]));
    for (const one of found)
      if (one.region) one.region = withCarriers(one.region, (trackId) => names.get(trackId));
    for (const { samples } of found)
      for (let k = 0; k < frames; k++) if (k < first || k > last) samples.clear(k);
    return found;
  }

  @Get(':id/motion.json')
  @ApiOperation({ summary: 'Motion and placement of every frame as lurn-motion JSON' })
  async motionJson(@Param('id') id: string): Promise<StreamableFile> {
    const clip = await this.clips.ready(id);
    const { motion, placements } = await this.exports.solve(clip);
    const { first, last } = clip.row.steady.range;
    const text = writeMotionJson(
      { ...clip.media, frames: clip.row.frames },
      motion,
      placements,
      first,
      last,
      clip.row.steady.output,
    );
    return attachment(text, 'application/json', `${stem(clip.row.name)}-motion.json`);
  }

  @Get(':id/motion.csv')
  @ApiOperation({ summary: 'The motion, a row a frame: position, rotation and scale, or four corners' })
  @ApiQuery({ name: 'of', required: false, enum: motionCsvKinds })
  @ApiQuery({
    name: 'by',
    required: false,
    enum: ['clip', 'track'],
    description: 'One motion, or each track’s own',
  })
  async motionCsv(
    @Param('id') id: string,
    @Query('of') of = 'pose',
    @Query('by') by = 'clip',
  ): Promise<StreamableFile> {
    const kind = motionCsvKinds.find((one) => one === of);
    if (!kind)
      throw new BadRequestException(`A motion's rows are of ${motionCsvKinds.join(' or ')}, not of "${of}".`);
    const clip = await this.clips.ready(id);
    if (by !== 'clip' && by !== 'track')
      throw new BadRequestException(`A motion is the clip’s or each track’s, not of "${by}".`);
    const { range } = clip.row.steady;
    const text =
      by === 'clip'
        ? writeMotionCsv((await this.exports.solve(clip)).motion, clip.media, range, kind)
        : writeTrackMotionsCsv(await this.clips.namedTracks(id, clip.row.frames), range, kind);
    const name = `${stem(clip.row.name)}-${by === 'clip' ? 'motion' : 'motions'}.csv`;
    return attachment(text, 'text/csv; charset=utf-8', name);
  }
}

function readTracks(text: string, clip: Pick<ClipFacts, 'width' | 'height' | 'frames'>): NamedTrack[] {
  if (text.trimStart().startsWith('{')) return readTracksJson(text, clip);
  const table = readTable(text);
  const { tracks, errors } = readTrackTable(table, guessMapping(table), clip);
  if (errors.length > 0) throw new FormatError(`Line ${errors[0].line}: ${errors[0].message}`);
  return tracks;
}

const jpeg = { type: 'image/jpeg' };

/** The data folder may lie anywhere, in a folder with a dot too. */
const anyFolder = { dotfiles: 'allow' } as const;

/** A file name without what follows its last dot. */
const stem = (name: string): string => name.replace(/\.[^.]*$/, '') || name;

const attachment = (content: string | Buffer, type: string, name: string): StreamableFile =>
  new StreamableFile(Buffer.from(content as string), {
    type,
    disposition: `attachment; filename*=UTF-8''${encodeURIComponent(name)}`,
  });
