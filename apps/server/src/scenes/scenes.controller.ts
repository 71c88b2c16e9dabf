import {
  Body,
  Controller,
  Delete,
  Get,
  Header,
  HttpCode,
  NotFoundException,
  Param,
  Patch,
  Post,
} from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { ScenePatch, SceneRequest, type ClipChange, type JobView } from '@lurn/contract';
import { writeSceneJson } from '@lurn/core';
import { ClipsService } from '../clips/clips.service.js';
import { ScenesService } from './scenes.service.js';

@ApiTags('scenes')
@Controller()
export class ScenesController {
  constructor(
    private readonly scenes: ScenesService,
    private readonly clips: ClipsService,
  ) {}

  @Post('clips/:id/scene')
  @HttpCode(202)
  @ApiOperation({ summary: 'Find how the whole picture moves, and what moves alike in it' })
  find(@Param('id') id: string, @Body() request: SceneRequest): Promise<JobView> {
    return this.scenes.find(id, request);
  }

  @Get('clips/:id/scene.json')
  @Header('Content-Type', 'application/json')
  @ApiOperation({ summary: 'The motion groups and their motions as a lurn-scene file' })
  async file(@Param('id') id: string): Promise<string> {
    const { row, media } = await this.clips.ready(id);
    const scene = await this.clips.sceneOf(id);
    const held = scene && (await this.clips.wholeScene(scene));
    if (!held) throw new NotFoundException('The motion of this clip has not been found yet.');
    return writeSceneJson({ ...media, name: row.name, frames: row.frames }, held.shots, held.motions);
  }

  @Patch('scenes/:id')
  @ApiOperation({ summary: 'Choose what of a scene is held: a group, or a depth; use it or leave it out' })
  change(@Param('id') id: string, @Body() patch: ScenePatch): Promise<ClipChange> {
    return this.scenes.change(id, patch);
  }

  @Delete('scenes/:id')
  @ApiOperation({ summary: 'Delete a scene' })
  remove(@Param('id') id: string): Promise<ClipChange> {
    return this.scenes.remove(id);
  }
}
