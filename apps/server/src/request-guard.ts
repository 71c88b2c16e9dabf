import { createHash, timingSafeEqual } from 'node:crypto';
import { isIP } from 'node:net';
import type { NextFunction, Request, Response } from 'express';

/** Addresses that only programs on this machine can reach. */
export const isLoopback = (host: string): boolean =>
  host === 'localhost' || host === '::1' || /^127(\.\d{1,3}){3}$/.test(host);

const cookie = 'lurn-token';

/** Host and Origin without port and brackets. */
const nameOf = (host: string): string => host.replace(/:\d+$/, '').replace(/^\[(.*)\]$/, '$1');

const digest = (text: string): Buffer => createHash('sha256').update(text).digest();

function cookieOf(request: Request): string {
  const found = request.headers.cookie?.split(/;\s*/).find((part) => part.startsWith(`${cookie}=`));
  return found ? decodeURIComponent(found.slice(cookie.length + 1)) : '';
}

/**
 * Lets in only who means this server. A page elsewhere whose name was turned to this address (DNS rebinding) gives
 * itself away by Host, one that merely sends requests here by Origin. With a token every request must bring it:
 * once in the address, which leaves a cookie that scripts cannot read, from then on by that cookie.
 */
export function requestGuard(token: string | null) {
  const wanted = token === null ? null : digest(token);
  const opens = (given: unknown): boolean =>
    wanted !== null && typeof given === 'string' && timingSafeEqual(digest(given), wanted);
  return (request: Request, response: Response, next: NextFunction): void => {
    const refuse = (status: number, message: string): void => {
      response.status(status).json({ statusCode: status, message });
    };
    const { host = '', origin } = request.headers;
    const name = nameOf(host);
    if (!isLoopback(name) && !(wanted && isIP(name))) {
      return refuse(403, 'Lurn answers only under the address it was started with.');
    }
    // Pages of this server send their own origin, programs that are no browser none.
    if (origin !== undefined && origin !== `http://${host}` && origin !== `https://${host}`) {
      return refuse(403, 'Another site may not send requests to Lurn.');
    }
    if (
      request.headers['sec-fetch-site'] === 'cross-site' &&
      request.headers['sec-fetch-mode'] !== 'navigate'
    ) {
      return refuse(403, 'Another site may not send requests to Lurn.');
    }
    if (!wanted || opens(cookieOf(request))) return next();
    if (opens(request.query.token)) {
      response.cookie(cookie, token, { httpOnly: true, sameSite: 'strict' });
      return response.redirect(303, request.path);
    }
    refuse(401, 'Open Lurn once with the address it printed when it started; it ends in ?token=…');
  };
}
