import { execFile } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const program = fileURLToPath(new URL('../../bin/lurn.js', import.meta.url));

/** Runs the program as from a shell. Tests write over what they have written before. */
export const lurn = (...args: string[]): Promise<{ code: number; out: string; err: string }> =>
  new Promise((resolve) => {
    const given = args.includes('--out') ? [...args, '--force'] : args;
    execFile(process.execPath, [program, ...given], (error, out, err) =>
      resolve({ code: error ? Number(error.code) : 0, out, err }),
    );
  });
