import { Catch, UnprocessableEntityException, type ArgumentsHost } from '@nestjs/common';
import { BaseExceptionFilter } from '@nestjs/core';
import { MediaError } from '@lurn/media';

/** What a media file did wrong reaches the client as a sentence, not as a failure of the server. */
@Catch(MediaError)
export class MediaErrorFilter extends BaseExceptionFilter {
  override catch(error: MediaError, host: ArgumentsHost): void {
    super.catch(new UnprocessableEntityException(error.message), host);
  }
}
