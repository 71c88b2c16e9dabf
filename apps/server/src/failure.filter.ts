import { Catch, HttpException, UnprocessableEntityException, type ArgumentsHost } from '@nestjs/common';
import { BaseExceptionFilter } from '@nestjs/core';
import { InputError } from '@lurn/core';

/** Status of RFC 4918. */
export const insufficientStorage = 507;

const diskFull = 'The disk is full. Free some space';

/** Failures that a person can do something about reach the client as a sentence, not as a failure of the server. */
@Catch()
export class FailureFilter extends BaseExceptionFilter {
  override catch(error: unknown, host: ArgumentsHost): void {
    super.catch(spoken(error), host);
  }
}

function spoken(error: unknown): unknown {
  if (error instanceof InputError) return new UnprocessableEntityException(error.message);
  if (isDiskFull(error)) return new HttpException(`${diskFull}; this is tried again.`, insufficientStorage);
  return error;
}

/** What failed work tells the person who waits for it; null where only the log can say more. */
export function sentenceOf(error: unknown): string | null {
  if (isDiskFull(error)) return `${diskFull}, and start again.`;
  return error instanceof InputError || error instanceof HttpException ? error.message : null;
}

/** Whether a failure, or what is behind it, is one of room on the disk. */
function isDiskFull(error: unknown): boolean {
  for (let at = error; at instanceof Error; at = at.cause)
    if (
      /SQLITE_FULL|ENOSPC/.test((at as NodeJS.ErrnoException).code ?? '') ||
      /No space left/.test(at.message)
    )
      return true;
  return false;
}
