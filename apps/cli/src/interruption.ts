/** What an interruption does: ends the program, or calls off what has more to clear away. */
let stop = (): void => process.exit(130);

for (const signal of ['SIGINT', 'SIGTERM', 'SIGHUP'] as const) process.on(signal, () => stop());

/** Calls work off when it is interrupted; from the second time on the program ends at once. */
export function interruption(): AbortSignal {
  const calledOff = new AbortController();
  stop = () => {
    stop = () => process.exit(130);
    calledOff.abort();
  };
  return calledOff.signal;
}
