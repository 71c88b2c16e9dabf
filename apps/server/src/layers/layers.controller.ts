import { rm } from 'node:fs/promises';
import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  NotFoundException,
  Param,
  Post,
  Put,
  Query,
  Res,
  StreamableFile,
  UnprocessableEntityException,
  UploadedFile,
  UseInterceptors,
} from '@nestjs/common';
import { FileInterceptor } from '@nestjs/platform-express';
import { ApiBody, ApiConsumes, ApiOperation, ApiQuery, ApiTags } from '@nestjs/swagger';
import type { Response } from 'express';
import {
  LayerCopyRequest,
  LayerMoveRequest,
  LayerRequest,
  type AssetView,
  type ClipChange,
} from '@lurn/contract';
import type { TextContent } from '@lurn/core';
import { read, TextRecord } from '@lurn/model';
import { drawTextPng } from '@lurn/media';
import { AssetsService } from './assets.service.js';
import { LayersService } from './layers.service.js';

@ApiTags('layers')
@Controller()
export class LayersController {
  constructor(
    private readonly layers: LayersService,
    private readonly assets: AssetsService,
  ) {}

  @Post('clips/:id/layers')
  @ApiOperation({ summary: 'Dress something onto a clip: a cover, a change of colours, a picture' })
  add(@Param('id') id: string, @Body() { layer }: LayerRequest): Promise<ClipChange> {
    return this.layers.add(id, layer);
  }

  @Put('layers/:id')
  @ApiOperation({ summary: 'Change a layer' })
  change(@Param('id') id: string, @Body() { layer }: LayerRequest): Promise<ClipChange> {
    return this.layers.change(id, layer);
  }

  @Delete('layers/:id')
  @ApiOperation({ summary: 'Delete a layer' })
  remove(@Param('id') id: string): Promise<ClipChange> {
    return this.layers.remove(id);
  }

  @Post('layers/:id/move')
  @ApiOperation({ summary: 'Give a layer another place in the list' })
  move(@Param('id') id: string, @Body() { to }: LayerMoveRequest): Promise<ClipChange> {
    return this.layers.move(id, to);
  }

  @Post('layers/:id/copies')
  @ApiOperation({ summary: 'Copy a layer, within its clip or into another' })
  copy(@Param('id') id: string, @Body() { clipId }: LayerCopyRequest): Promise<ClipChange> {
    return this.layers.copy(id, clipId);
  }

  @Post('assets')
  @ApiConsumes('multipart/form-data')
  @ApiBody({ schema: { type: 'object', properties: { file: { type: 'string', format: 'binary' } } } })
  @UseInterceptors(FileInterceptor('file'))
  @ApiOperation({ summary: 'Bring in a picture that layers may show (PNG, JPEG, WebP, TIFF), or a font' })
  async bring(@UploadedFile() file?: { path: string; originalname: string }): Promise<AssetView> {
    if (!file) throw new UnprocessableEntityException('There is no file in it.');
    try {
      return await this.assets.bring(file.path, Buffer.from(file.originalname, 'latin1').toString('utf8'));
    } finally {
      await rm(file.path, { force: true });
    }
  }

  @Get('text-pictures')
  @Header('Content-Type', 'image/png')
  @Header('Cache-Control', 'private, max-age=3600')
  @ApiQuery({ name: 'of', description: 'A text layer’s content as JSON' })
  @ApiOperation({ summary: 'Words as they will be drawn, a PNG at twice the clip’s pixels' })
  async text(@Query('of') of?: string): Promise<StreamableFile> {
    const content = textIn(of);
    return new StreamableFile(await drawTextPng(content, this.assets.fontOf(content, 'Text')));
  }

  @Get('assets/:id')
  @ApiOperation({ summary: 'A picture that layers show, as it was brought in' })
  asset(@Param('id') id: string, @Res() response: Response): void {
    const path = this.assets.path(id);
    if (!path) throw new NotFoundException('There is no such picture.');
    response.sendFile(
      path,
      { dotfiles: 'allow', headers: { 'Cache-Control': 'private, max-age=86400' } },
      (error) => {
        if (error && !response.headersSent)
          response.status(404).json({ statusCode: 404, message: 'There is no such picture.' });
      },
    );
  }
}

/** A text layer's content as it was sent; refuses what is none. */
function textIn(of: string | undefined): TextContent {
  let content: object | null;
  try {
    content = JSON.parse(of ?? 'null') as object | null;
  } catch {
    content = null;
  }
  return { ...read(TextRecord, content, 'The text'), kind: 'text' };
}
