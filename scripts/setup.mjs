// Makes a fresh machine ready: the Debian packages where it may install them, node packages, and a build.
import { spawn, spawnSync } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { fileURLToPath } from 'node:url';

const root = fileURLToPath(new URL('..', import.meta.url));
const forDemo = process.argv.includes('--for-demo');

function stop(text) {
  console.error(`\n${text}\n`);
  process.exit(1);
}

const [major, minor] = process.versions.node.split('.').map(Number);
if (major < 20 || (major === 20 && minor < 19))
  stop(`Lurn needs Node.js 20.19 or later; this is ${process.version}.`);

/** Runs a command with a quiet standard output and tells whether it succeeded. */
const quietly = (command, args, env = process.env) =>
  new Promise((resolve) => {
    const child = spawn(command, args, { cwd: root, env, stdio: ['ignore', 'ignore', 'inherit'] });
    child.on('error', () => resolve(false));
    child.on('exit', (code) => resolve(code === 0));
  });

const has = (tool) => !spawnSync(tool, ['-version'], { stdio: 'ignore' }).error;

const missing = [];
if (!has('ffmpeg') || !has('ffprobe')) missing.push('ffmpeg');
if (!forDemo && !existsSync('/usr/bin/chromium')) missing.push('chromium');

/** Installs Debian packages, or says which are missing where it may not. */
async function installPackages() {
  if (missing.length === 0) return;
  const command = `apt-get install -y --no-install-recommends ${missing.join(' ')}`;
  const debian = existsSync('/etc/debian_version') && existsSync('/usr/bin/apt-get');
  if (!debian || process.getuid?.() !== 0) {
    const why = {
      ffmpeg: 'ffmpeg 5 or later, with ffprobe, reads and writes the clips',
      chromium: 'Chromium at /usr/bin/chromium runs the browser tests',
    };
    const list = missing.map((name) => `  ${why[name]}`).join('\n');
    stop(
      `Please install first:\n${list}\n${debian ? `As root: ${command}` : 'On Debian, as root: ' + command}`,
    );
  }
  console.log(`Installing ${missing.join(' and ')} …`);
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' };
  await quietly('apt-get', ['update', '-qq'], env);
  if (!(await quietly('apt-get', command.split(' ').slice(1), env)))
    stop(`Installing ${missing.join(' and ')} failed; try: ${command}`);
}

const stamp = `${root}node_modules/.package-lock.json`;
async function installModules() {
  if (existsSync(stamp) && statSync(stamp).mtimeMs >= statSync(`${root}package-lock.json`).mtimeMs) return;
  console.log('Installing node packages …');
  if (!(await quietly('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'])))
    stop('Installing the node packages failed; is the registry within reach?');
}

// Both wait for the network for most of the time.
await Promise.all([installPackages(), installModules()]);

const built = spawnSync(process.execPath, ['scripts/build.mjs', '--if-needed'], {
  cwd: root,
  stdio: 'inherit',
});
process.exit(built.status ?? 1);
