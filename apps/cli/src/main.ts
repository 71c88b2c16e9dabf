import { Command, Option } from 'commander';
import { checkTools, CancelledError } from '@lurn/media';
import {
  parseChannels,
  parseFrame,
  parseNumber,
  parsePoint,
  parseRange,
  parseZoom,
  type PointArgument,
} from './arguments.js';
import { probe } from './probe.js';
import { steady, type SteadyArguments } from './steady.js';
import { track, type TrackArguments } from './track.js';
import { UsageError } from './usage-error.js';

const exitCodes = `
Exit codes:
  0    all done
  1    the work failed; the reason is on the last line
  2    the command was called wrongly
  3    the file was written, but a track was lost on the way
  130  called off`;

const collect = (text: string, before: PointArgument[]): PointArgument[] => [...before, parsePoint(text)];

const addPointOptions = (command: Command, needed: boolean): Command =>
  command
    .addOption(
      new Option(
        '--point <X,Y@FRAME[=NAME]>',
        'a point to follow, in clip pixels from the top-left corner; may be repeated',
      )
        .argParser(collect)
        .default([], 'none')
        .makeOptionMandatory(needed),
    )
    .option(
      '--template <PX>',
      'full width of the box that is looked for',
      parseNumber('The template', 7, 401),
      41,
    )
    .option(
      '--search <PX>',
      'full width of the box that is looked in, about where the point is expected',
      parseNumber('The search box', 15, 2001),
      161,
    )
    .option('--range <A:B>', 'first and last frame that matter, both included', parseRange);

const program = new Command('lurn')
  .description('Follow a feature through a clip and take its motion out.')
  .addHelpText(
    'after',
    `${exitCodes}

Examples:
  lurn probe quay.mp4
  lurn track quay.mp4 --point 963,540@0=plate --out plate.json
  lurn steady quay.mp4 --tracks plate.json --mode hold --zoom fit --out held.mp4`,
  )
  .exitOverride()
  .configureOutput({ outputError: () => undefined });

program
  .command('probe')
  .argument('<clip>', 'a video file')
  .description('Say what a clip is: size, exact rate, frames counted by decoding, colour tags, sound.')
  .option('--json', 'as JSON')
  .action(probe);

let losses: string[] = [];

addPointOptions(
  program
    .command('track')
    .argument('<clip>', 'a video file')
    .description('Follow points both ways from the frames they are given on.'),
  true,
)
  .requiredOption('--out <FILE>', 'where to write the tracks: .json (lurn-tracks) or .csv')
  .addHelpText('after', exitCodes)
  .action(async (clip: string, args: TrackArguments) => {
    if (args.point.length === 0) throw new UsageError('Give at least one --point X,Y@FRAME to follow.');
    losses = await track(clip, args);
  });

addPointOptions(
  program
    .command('steady')
    .argument('<clip>', 'a video file')
    .description('Take the motion of points out of a clip and write the steadied movie.'),
  false,
)
  .requiredOption('--out <FILE.mp4>', 'the movie to write: H.264, same size, rate and sound')
  .option('--tracks <FILE.json>', 'tracks made before, instead of points')
  .addOption(
    new Option('--mode <MODE>', 'hold: take all motion out; smooth: keep the intended move')
      .choices(['hold', 'smooth'])
      .default('hold'),
  )
  .option(
    '--smooth <SECONDS>',
    'for smooth: the standard deviation of the Gaussian',
    parseNumber('The smoothing', 0, 60),
    1,
  )
  .option('--channels <LIST>', 'what is taken out', parseChannels, parseChannels('x,y,rotation,scale'))
  .option(
    '--reference <FRAME>',
    'the frame that is left as it is; the first tracked one if not given',
    parseFrame,
  )
  .option('--zoom <ZOOM>', 'fit: the smallest that leaves no bare edge; none; or a factor', parseZoom, 'fit')
  .option('--motion <FILE.json>', 'also write the motion and the placement of every frame (lurn-motion)')
  .addHelpText('after', exitCodes)
  .action(async (clip: string, args: SteadyArguments) => {
    losses = await steady(clip, args);
  });

try {
  program.commands.forEach((command) =>
    command.exitOverride().configureOutput({ outputError: () => undefined }),
  );
  program.hook('preAction', async () => void (await checkTools()));
  await program.parseAsync();
  for (const loss of losses) console.error(loss);
  if (losses.length > 0) process.exitCode = 3;
} catch (error) {
  const { code, message } = error as Error & { code?: string };
  if (code === 'commander.helpDisplayed' || code === 'commander.help' || code === 'commander.version') {
    process.exitCode = 0;
  } else if (error instanceof UsageError || code?.startsWith('commander.')) {
    console.error(`${message.replace(/^error: /, '')}\nTry --help.`);
    process.exitCode = 2;
  } else {
    console.error(message);
    process.exitCode = error instanceof CancelledError ? 130 : 1;
  }
}
