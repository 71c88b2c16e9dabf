/** For the `ref` of a field that a person has just asked for. */
export const focusAtOnce = (field: HTMLInputElement | null): void => field?.focus();
