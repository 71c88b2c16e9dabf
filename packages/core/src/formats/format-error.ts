/** A file that cannot be read as what it should be; the message says where and why. */
export class FormatError extends Error {
  override name = 'FormatError';
}
