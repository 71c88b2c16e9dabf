import { Module, type DynamicModule } from '@nestjs/common';
import { MulterModule } from '@nestjs/platform-express';
import { ClipFiles } from './clips/clip-files.js';
import { ClipsController } from './clips/clips.controller.js';
import { ClipsService } from './clips/clips.service.js';
import { EarlyFrames } from './clips/early-frames.js';
import { ReadingService } from './clips/reading.service.js';
import { DATABASE, openDatabase } from './database/database.js';
import { EditsService } from './records/edits.service.js';
import { RecordsController } from './records/records.controller.js';
import { RecordsService } from './records/records.service.js';
import { EventHub } from './events/event-hub.js';
import { ExportsController } from './exports/exports.controller.js';
import { SteadyLikeService } from './exports/steady-like.service.js';
import { ExportsService } from './exports/exports.service.js';
import { HealthController } from './health.controller.js';
import { JobsController } from './jobs/jobs.controller.js';
import { JobsService } from './jobs/jobs.service.js';
import { MediaController } from './media/media.controller.js';
import { MediaFoldersService } from './media/media-folders.service.js';
import { SERVER_OPTIONS, type ServerOptions } from './options.js';
import { PackageService } from './projects/package.service.js';
import { ProjectsController } from './projects/projects.controller.js';
import { ProjectsService } from './projects/projects.service.js';
import { AssetsService } from './layers/assets.service.js';
import { LayersController } from './layers/layers.controller.js';
import { LayersService } from './layers/layers.service.js';
import { ScenesController } from './scenes/scenes.controller.js';
import { ScenesService } from './scenes/scenes.service.js';
import { SettingsController } from './settings/settings.controller.js';
import { SettingsService } from './settings/settings.service.js';
import { JoiningService } from './tracks/joining.service.js';
import { SuggestionsService } from './tracks/suggestions.service.js';
import { TrackRunsService } from './tracks/track-runs.service.js';
import { TracksController } from './tracks/tracks.controller.js';
import { TracksService } from './tracks/tracks.service.js';
import { UploadsService } from './uploads/uploads.service.js';

@Module({})
export class AppModule {
  static with(options: ServerOptions): DynamicModule {
    return {
      module: AppModule,
      imports: [MulterModule.register({ dest: `${options.data}/uploads`, limits: { files: 1 } })],
      controllers: [
        HealthController,
        ProjectsController,
        ClipsController,
        TracksController,
        ScenesController,
        LayersController,
        RecordsController,
        JobsController,
        ExportsController,
        MediaController,
        SettingsController,
      ],
      providers: [
        { provide: SERVER_OPTIONS, useValue: options },
        { provide: DATABASE, useFactory: () => openDatabase(options.data) },
        ...[ClipFiles, EventHub, RecordsService, EditsService, JobsService, ClipsService, ProjectsService],
        ...[
          EarlyFrames,
          ReadingService,
          PackageService,
          UploadsService,
          MediaFoldersService,
          SettingsService,
        ],
        ...[
          JoiningService,
          TracksService,
          ScenesService,
          AssetsService,
          LayersService,
          TrackRunsService,
          SuggestionsService,
          ExportsService,
          SteadyLikeService,
        ],
      ],
    };
  }
}
