import { join } from 'node:path';
import { HttpException, type INestApplication, type LoggerService } from '@nestjs/common';
import { NestFactory } from '@nestjs/core';
import type { NestExpressApplication } from '@nestjs/platform-express';
import { DocumentBuilder, SwaggerModule } from '@nestjs/swagger';
import compression from 'compression';
import express, { type NextFunction, type Request, type Response } from 'express';
import helmet from 'helmet';
import { pinoHttp } from 'pino-http';
import { AppModule } from './app.module.js';
import { ClipFiles } from './clips/clip-files.js';
import { ClipsService } from './clips/clips.service.js';
import { ReadingService } from './clips/reading.service.js';
import { DATABASE, type Database } from './database/database.js';
import { describeKinds, RequestPipe } from './describe-kinds.js';
import { rememberOrigin } from './records/edit-origin.js';
import { updateOldEdits } from './records/old-edits.js';
import { JobsService } from './jobs/jobs.service.js';
import { requestGuard } from './request-guard.js';
import { log } from './log.js';
import { FailureFilter } from './failure.filter.js';
import type { ServerOptions } from './options.js';
import { ProjectsService } from './projects/projects.service.js';
import { SettingsService } from './settings/settings.service.js';
import { UploadsService } from './uploads/uploads.service.js';

/** Nest's own words as structured lines. */
const nestLogger: LoggerService = {
  log: (message, context) => log.debug({ context }, String(message)),
  warn: (message, context) => log.warn({ context }, String(message)),
  error: (message, ...rest) => {
    if (!(message instanceof HttpException)) log.error({ rest }, String(message));
  },
};

/** Builds the whole server, ready to listen. */
export async function createServer(options: ServerOptions): Promise<INestApplication> {
  const app = await NestFactory.create<NestExpressApplication>(AppModule.with(options), {
    logger: nestLogger,
    forceCloseConnections: true,
  });
  app.use(
    pinoHttp({
      logger: log,
      autoLogging: { ignore: (request: Request) => !request.url.startsWith('/api') },
      customLogLevel: level,
      // Who asked for what and how it ended; the rest of the headers tells nothing.
      serializers: {
        req: ({ method, url }: Request) => ({ method, url }),
        res: ({ statusCode }: Response) => ({ statusCode }),
      },
    }),
  );
  app.use(requestGuard(options.token));
  app.use(helmet({ contentSecurityPolicy: { directives: policy }, strictTransportSecurity: false }));
  app.use(
    compression({
      filter: (request, response) => !isStream(response) && compression.filter(request, response),
    }),
  );
  const uploads = app.get(UploadsService);
  app.use((request: Request, response: Response, next: NextFunction) =>
    uploads.takes(request) ? void uploads.handle(request, response).catch(next) : next(),
  );
  // A long set of pictures is named one by one.
  app.useBodyParser('json', { limit: '8mb' });
  // Tracks from elsewhere may be long.
  app.useBodyParser('text', { type: ['text/csv', 'application/vnd.lurn.tracks+json'], limit: '64mb' });
  app.use(rememberOrigin);
  app.setGlobalPrefix('api');
  app.useGlobalPipes(new RequestPipe());
  app.useGlobalFilters(new FailureFilter(app.getHttpAdapter()));
  app.enableShutdownHooks();
  const document = new DocumentBuilder()
    .setTitle('Lurn')
    .setDescription('Follow, steady, export.')
    .setVersion('1')
    .build();
  describeKinds();
  SwaggerModule.setup('api/docs', app, () => SwaggerModule.createDocument(app, document));
  serveWeb(app, options.web);
  await updateOldEdits(app.get<Database>(DATABASE));
  await app.get(ClipFiles).prepare();
  await app.get(JobsService).settleInterrupted();
  await app.get(SettingsService).apply();
  await app.get(ProjectsService).purge();
  await app.get(ClipsService).sweep();
  await app.get(ReadingService).resume();
  await app.get(UploadsService).resume();
  await app.get(JobsService).resume(['export', 'like']);
  return app;
}

const policy = {
  'default-src': ["'self'"],
  // The stage makes pictures with kernels in WebAssembly.
  'script-src': ["'self'", "'wasm-unsafe-eval'"],
  'style-src': ["'self'", "'unsafe-inline'"],
  'img-src': ["'self'", 'data:', 'blob:'],
  'media-src': ["'self'"],
  'worker-src': ["'self'", 'blob:'],
  'upgrade-insecure-requests': null,
};

const isStream = (response: Response): boolean =>
  String(response.getHeader('content-type')).startsWith('text/event-stream');

/** Refusals are news, failures are errors; the rest only when asked for. */
function level(
  _request: unknown,
  response: { statusCode: number },
  error?: Error,
): 'error' | 'info' | 'debug' {
  if (error || response.statusCode >= 500) return 'error';
  return response.statusCode >= 400 ? 'info' : 'debug';
}

/** The built page, for every address that is not the API's. */
function serveWeb(app: NestExpressApplication, folder: string): void {
  app.use(express.static(folder, { index: false, maxAge: '1h', dotfiles: 'allow' }));
  app.use((request: Request, response: Response, next: NextFunction) => {
    if (request.method !== 'GET' || request.path.startsWith('/api')) return next();
    // Asked for anew each time: after an update an old page would look for files that are gone.
    const headers = { 'Cache-Control': 'no-cache' };
    response.sendFile(join(folder, 'index.html'), { cacheControl: false, dotfiles: 'allow', headers });
  });
}
