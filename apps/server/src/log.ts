import { pino } from 'pino';

/** Structured lines on standard output; LURN_LOG sets the level. */
export const log = pino({ level: process.env.LURN_LOG ?? 'info' });
