import { resolve } from 'node:path';
import { fileURLToPath } from 'node:url';

/** How the server was started. */
export interface ServerOptions {
  /** The one folder that holds database, originals, proxies and exports. */
  data: string;
  host: string;
  port: number;
  /** The built page. */
  web: string;
}

export const SERVER_OPTIONS = 'SERVER_OPTIONS';

/** From the environment: LURN_DATA, LURN_PORT. */
export function readOptions(environment: NodeJS.ProcessEnv): ServerOptions {
  const port = Number(environment.LURN_PORT ?? 4810);
  if (!Number.isInteger(port) || port < 0 || port > 65535) {
    throw new RangeError(`LURN_PORT must be a port number, not "${environment.LURN_PORT}".`);
  }
  return {
    data: resolve(environment.LURN_DATA ?? 'data'),
    host: '127.0.0.1',
    port,
    web: fileURLToPath(new URL('../../web/dist', import.meta.url)),
  };
}
