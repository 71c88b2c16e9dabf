/** Something that a person can do something about; the message is one sentence that names it and the way out. */
export class InputError extends Error {
  override name = 'InputError';
}

/** A file that cannot be read as what it should be; the message says where and why. */
export class FormatError extends InputError {
  override name = 'FormatError';
}
