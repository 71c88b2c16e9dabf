// Compiles everything: TypeScript, the WebAssembly kernels, the web page. With --if-needed, only after a change.
import { spawn } from 'node:child_process';
import { existsSync, mkdirSync, readdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const stamp = join(root, '.cache/built');

/** When anything under a folder was last changed, leaving out what is made and what is installed. */
function lastChange(folder) {
  let last = 0;
  for (const entry of readdirSync(folder, { withFileTypes: true })) {
    if (['node_modules', 'dist', 'clips', 'data'].includes(entry.name) || entry.name.startsWith('.'))
      continue;
    const path = join(folder, entry.name);
    last = Math.max(last, entry.isDirectory() ? lastChange(path) : statSync(path).mtimeMs);
  }
  return last;
}

function run(command, args, cwd = root) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd, stdio: 'inherit' });
    child.on('error', reject);
    child.on('exit', (code) =>
      code === 0 ? resolve() : reject(new Error(`"${command} ${args.join(' ')}" failed.`)),
    );
  });
}

const bin = (name) => join(root, 'node_modules/.bin', name);

const folders = ['packages', 'apps', 'demo', 'bench'].map((name) => join(root, name));
const changed = Math.max(statSync(join(root, 'package-lock.json')).mtimeMs, ...folders.map(lastChange));
const fresh = existsSync(stamp) && statSync(stamp).mtimeMs > changed;

if (!process.argv.includes('--if-needed') || !fresh) {
  try {
    console.log('Building …');
    const kernels = async () => {
      for (const folder of ['packages/core', 'demo'])
        await run(bin('asc'), ['--config', 'asconfig.json'], join(root, folder));
    };
    await Promise.all([run(bin('tsc'), ['-b']), kernels()]);
    await Promise.all([
      run(bin('tsc'), ['-p', 'apps/web/tsconfig.test.json']),
      run('npm', ['run', 'build', '--silent', '-w', '@lurn/web', '--', '--logLevel', 'warn']),
    ]);
    mkdirSync(join(root, '.cache'), { recursive: true });
    writeFileSync(stamp, '');
  } catch (error) {
    console.error(`Building stopped: ${error.message}`);
    process.exit(1);
  }
}
