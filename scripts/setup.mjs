// Makes a fresh machine ready: the Debian packages where it may install them, node packages, and a build.
import { spawnSync } from 'node:child_process';
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

const has = (tool) => !spawnSync(tool, ['-version'], { stdio: 'ignore' }).error;

const missing = [];
if (!has('ffmpeg') || !has('ffprobe')) missing.push('ffmpeg');
if (!forDemo && !existsSync('/usr/bin/chromium')) missing.push('chromium');

if (missing.length > 0) {
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
  const quiet = {
    stdio: ['ignore', 'ignore', 'inherit'],
    env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
  };
  spawnSync('apt-get', ['update', '-qq'], quiet);
  const { status } = spawnSync('apt-get', command.split(' ').slice(1), quiet);
  if (status !== 0) stop(`Installing ${missing.join(' and ')} failed; try: ${command}`);
}

const stamp = `${root}node_modules/.package-lock.json`;
if (!existsSync(stamp) || statSync(stamp).mtimeMs < statSync(`${root}package-lock.json`).mtimeMs) {
  console.log('Installing node packages …');
  const { status } = spawnSync('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error'], {
    cwd: root,
    stdio: 'inherit',
  });
  if (status !== 0) stop('Installing the node packages failed; is the registry within reach?');
}

const built = spawnSync(process.execPath, ['scripts/build.mjs', '--if-needed'], {
  cwd: root,
  stdio: 'inherit',
});
process.exit(built.status ?? 1);
