import { Body, Controller, Get, Patch } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { SettingsRequest, type SettingsView } from '@lurn/contract';
import { SettingsService } from './settings.service.js';

@ApiTags('settings')
@Controller('settings')
export class SettingsController {
  constructor(private readonly settings: SettingsService) {}

  @Get()
  @ApiOperation({ summary: 'What is chosen for the whole server' })
  view(): SettingsView {
    return this.settings.view();
  }

  @Patch()
  @ApiOperation({ summary: 'Choose how many cores work may take' })
  change(@Body() { cores }: SettingsRequest): Promise<SettingsView> {
    return this.settings.setCores(cores);
  }
}
