import { delimiter, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { isLoopback } from './request-guard.js';

/** How the server was started. */
export interface ServerOptions {
  /** The one folder that holds database, originals, proxies and exports. */
  data: string;
  host: string;
  port: number;
  /** What every request must bring; needed where other machines can reach the server. */
  token: string | null;
  /** Folders whose videos are worked on where they lie. */
  media: string[];
  /** The folder below which pictures may be exported; null where none was given. */
  exports: string | null;
  /** The built page. */
  web: string;
}

export const SERVER_OPTIONS = 'SERVER_OPTIONS';

const shortestToken = 16;

/**
 * From the command line, `--data`, `--host`, `--port`, `--token`, `--exports`, any number of `--media`, or the environment:
 * LURN_DATA and so on.
 */
export function readOptions(args: readonly string[], environment: NodeJS.ProcessEnv): ServerOptions {
  const text = { type: 'string' } as const;
  const options = { data: text, host: text, port: text, token: text, exports: text };
  const media = { type: 'string', multiple: true } as const;
  const { values } = parseArgs({ args: [...args], options: { ...options, media } });
  const folders = values.media ?? environment.LURN_MEDIA?.split(delimiter).filter(Boolean) ?? [];
  const given = (name: keyof typeof options): string | undefined =>
    values[name] ?? environment[`LURN_${name.toUpperCase()}`];
  const port = Number(given('port') ?? 4810);
  if (!Number.isInteger(port) || port < 0 || port > 65535) {
    throw new RangeError(`The port must be a number from 0 to 65535, not "${given('port')}".`);
  }
  const exported = given('exports');
  const host = given('host') ?? '127.0.0.1';
  const token = given('token') ?? null;
  if (!isLoopback(host) && token === null) {
    throw new RangeError(
      `Other machines can reach ${host}: choose a secret with --token, or leave --host out.`,
    );
  }
  if (token !== null && token.length < shortestToken) {
    throw new RangeError(`The token must have at least ${shortestToken} characters.`);
  }
  return {
    data: resolve(given('data') ?? 'data'),
    host,
    port,
    token,
    media: folders.map((folder) => resolve(folder)),
    exports: exported === undefined ? null : resolve(exported),
    web: fileURLToPath(new URL('../../web/dist', import.meta.url)),
  };
}
