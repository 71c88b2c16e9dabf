import { Controller, Get, Inject } from '@nestjs/common';
import { ApiOperation, ApiTags } from '@nestjs/swagger';
import { checkTools } from '@lurn/media';
import { sql } from 'drizzle-orm';
import { DATABASE, type Database } from './database/database.js';

@ApiTags('health')
@Controller('health')
export class HealthController {
  constructor(@Inject(DATABASE) private readonly database: Database) {}

  @Get()
  @ApiOperation({ summary: 'Whether database and media tools answer' })
  async check(): Promise<{ status: 'ok'; ffmpeg: string }> {
    await this.database.run(sql`select 1`);
    const { version } = await checkTools();
    return { status: 'ok', ffmpeg: version };
  }
}
