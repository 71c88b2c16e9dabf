// Compiles everything: TypeScript, the WebAssembly kernels, the web page.
import { spawnSync } from 'node:child_process';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));

function run(command, args, cwd = root) {
  const { status, error } = spawnSync(command, args, { cwd, stdio: 'inherit' });
  if (status !== 0) {
    console.error(`Building stopped: "${command} ${args.join(' ')}" failed${error ? ` (${error.message})` : ''}.`);
    process.exit(1);
  }
}

const bin = (name) => `${root}node_modules/.bin/${name}`;

run(bin('tsc'), ['-b']);
run(bin('asc'), ['--config', 'asconfig.json'], `${root}packages/core`);
run(bin('asc'), ['--config', 'asconfig.json'], `${root}demo`);
if (!process.argv.includes('--no-web')) run('npm', ['run', 'build', '--silent', '-w', '@lurn/web']);
