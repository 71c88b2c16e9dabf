import { InputError } from '@lurn/core';

/** Something about a media file or the media tools that a person can act on; the message is one sentence. */
export class MediaError extends InputError {
  override name = 'MediaError';
}

/** The work was called off. */
export class CancelledError extends Error {
  override name = 'CancelledError';
  constructor() {
    super('Cancelled.');
  }
}
