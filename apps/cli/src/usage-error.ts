/** Something wrong with how a command was called. */
export class UsageError extends Error {
  override name = 'UsageError';
}
