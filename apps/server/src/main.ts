import 'reflect-metadata';
import { checkTools } from '@lurn/media';
import { log } from './log.js';
import { readOptions } from './options.js';
import { createServer } from './server.js';

try {
  const options = readOptions(process.argv.slice(2), process.env);
  const { version } = await checkTools();
  const app = await createServer(options);
  await app.listen(options.port, options.host);
  log.info({ address: await app.getUrl(), data: options.data, ffmpeg: version }, 'Lurn is listening');
} catch (error) {
  const { code, message } = error as NodeJS.ErrnoException;
  log.fatal(code === 'EADDRINUSE' ? 'The port is taken; choose another with LURN_PORT.' : message);
  process.exit(1);
}
