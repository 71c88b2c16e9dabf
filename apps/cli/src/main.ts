import { Command, Option } from 'commander';
import {
  angleUnits,
  belowChoices,
  channels,
  defaultFollowOptions,
  fieldChoices,
  filters,
  interpolations,
  motionModels,
  lengthUnits,
  shapeOf,
  shapes,
  smoothKinds,
  codecs,
  edgeKinds,
  unfilledKinds,
  pairLayouts,
  resamplingNames,
} from '@lurn/core';
import { checkTools, CancelledError } from '@lurn/media';
import {
  parseArea,
  parseChannels,
  parseFrame,
  parseHoldOut,
  parseKey,
  parseNumber,
  parsePoint,
  parseQuad,
  parseRange,
  parseRegion,
  parseRollingShutter,
  parseSize,
  parseStrength,
  parseZoom,
} from './arguments.js';
import { compare } from './compare.js';
import { dress, type DressArguments } from './dress.js';
import { noteInput, requireInput, requireOutput } from './files.js';
import { giveBack } from './give-back.js';
import { probe } from './probe.js';
import { recipe } from './recipe.js';
import { report } from './report.js';
import { steady, type SteadyArguments } from './steady.js';
import { track, type TrackArguments } from './track.js';
import { convertTracks, parseColumns } from './tracks.js';
import { UsageError } from './usage-error.js';

const exitCodes = `
Exit codes:
  0    all done
  1    the work failed; the reason is on the last line
  2    the command was called wrongly
  3    the file was written, but a track was lost on the way
  130  called off`;

const forceOption = (): Option =>
  new Option('--force', 'replace files that are there already; never those that are read');

/** Of an option that may be repeated: each is read and kept. */
const repeated =
  <T>(parse: (text: string) => T) =>
  (text: string, before: T[]): T[] => [...before, parse(text)];

const addPointOptions = (command: Command): Command =>
  command
    .addOption(
      new Option(
        '--point <X,Y@FRAME[=NAME]>',
        'a point to follow, in clip pixels from the top-left corner; may be repeated',
      )
        .argParser(repeated(parsePoint))
        .default([], 'none'),
    )
    .addOption(
      new Option(
        '--key <NAME@FRAME=X,Y[/X,Y]>',
        'a further hand-placed key of a named point: the path passes through it; behind a / another place to follow from there on, when the point itself leaves or is covered; may be repeated',
      )
        .argParser(repeated(parseKey))
        .default([], 'none'),
    )
    .addOption(
      new Option(
        '--region <REGION>',
        'a flat area to follow whole, NAME=X,Y;X,Y;X,Y@FRAME, drawn loosely about it: three corners or more; may be repeated, also for more outlines of one area',
      )
        .argParser(repeated(parseRegion))
        .default([], 'none'),
    )
    .addOption(
      new Option(
        '--hold-out <AREA>',
        'an area that never counts for regions, X,Y;X,Y;X,Y@FRAME or X,Y;X,Y;X,Y@FRAME=TRACK; it stays, or rides on a named point or region; may be repeated',
      )
        .argParser(repeated(parseHoldOut))
        .default([], 'none'),
    )
    .addOption(
      new Option(
        '--quad <QUAD>',
        'four corners laid on a region on any frame, NAME=X,Y;X,Y;X,Y;X,Y@FRAME, upper left first, clockwise (default: the box about it)',
      )
        .argParser(repeated(parseQuad))
        .default([], 'none'),
    )
    .option(
      '--template <PX>',
      'full width of the box that is looked for (default: 41; larger above 1920 pixels, smaller below 320)',
      parseNumber('The template', 7, 401),
    )
    .option(
      '--search <PX>',
      'full width of the box that is looked in, about where the point is expected (default: 161, likewise)',
      parseNumber('The search box', 15, 2001),
    )
    .addOption(
      new Option('--shape <SHAPE>', 'what the box may do besides shifting')
        .choices(shapes)
        .default(shapeOf(defaultFollowOptions.model)),
    )
    .addOption(
      new Option('--channel <CHANNEL>', 'what of the colour is looked at; the movie written keeps all of it')
        .choices(channels)
        .default('luma'),
    )
    .addOption(
      new Option(
        '--filter <FILTER>',
        'soften: against grain; local-contrast: brings shade and light to one contrast',
      )
        .choices(filters)
        .default('none'),
    )
    .addOption(
      new Option('--fields <FIELDS>', 'which lines of interlaced material are looked at')
        .choices(fieldChoices)
        .default('both'),
    )
    .addOption(
      new Option(
        '--below <WHAT>',
        'below the threshold: stop; mark: carry on and mark the frames lost; bridge: fill the gap when found again',
      )
        .choices(belowChoices)
        .default(defaultFollowOptions.below),
    )
    .option(
      '--threshold <CONFIDENCE>',
      'confidence, 0 to 1, below which a place does not count',
      parseNumber('The threshold', 0, 1),
      defaultFollowOptions.threshold,
    )
    .option(
      '--gap <FRAMES>',
      'for bridge: the most frames that are filled',
      parseNumber('The gap', 1, 10000),
      defaultFollowOptions.longestGap,
    )
    .addOption(
      new Option(
        '--by-hand <CURVE>',
        'follow nothing: join the keys of each point by straight lines, or by a smooth curve through them',
      ).choices(interpolations),
    )
    .option('--range <A:B>', 'first and last frame that matter, both included', parseRange);

const addInputOptions = (command: Command): Command =>
  command
    .argument('<clip>', 'a video file, or a folder of PNG, JPEG or TIFF pictures')
    .option('--rate <RATE>', 'for a folder: how many pictures a second, like 25 or 24000/1001')
    .option('--as-fields', 'take every field of an interlaced clip for a frame of its own');

const addEncodingOptions = (command: Command): Command =>
  command
    .addOption(
      new Option('--codec <CODEC>', 'what the movie is written as (default: by the ending of --out)').choices(
        codecs,
      ),
    )
    .option(
      '--bits <BITS>',
      'bits a level: 8, 10, 12 or 16, as the codec has them (default: the clip’s)',
      parseNumber('Bits', 8, 16),
    );

const onlyOption = (): Option =>
  new Option(
    '--only <WHAT>',
    'layers: by themselves, with alpha, in place of the picture; matte: how much of each pixel they cover',
  ).choices(['layers', 'matte']);

const program = new Command('lurn')
  .description('Follow a feature through a clip and take its motion out.')
  .addHelpText(
    'after',
    `${exitCodes}

Examples:
  lurn probe quay.mp4
  lurn track quay.mp4 --point 963,540@0=plate --out plate.json
  lurn track quay.mp4 --point 963,540@0=plate --key plate@120=964.5,541 --below bridge --out plate.json
  lurn track quay.mp4 --suggest 8
  lurn tracks quay.mp4 --in table.csv --columns frame=Nr,x=Left,y=Top --units percent --out plate.json
  lurn steady quay.mp4 --scene --kind composed --zoom 1.08 --out steadied.mp4
  lurn steady quay.mp4 --tracks plate.json --mode hold --zoom fit --out held.mp4`,
  )
  .exitOverride()
  .configureOutput({ outputError: () => undefined });

addInputOptions(program.command('probe'))
  .description('Say what a clip is: size, exact rate, frames counted by decoding, colour tags, sound.')
  .option('--json', 'as JSON')
  .action(probe);

let losses: string[] = [];

addPointOptions(
  addInputOptions(program.command('track')).description(
    'Follow points and flat areas both ways from the frames they are given on.',
  ),
)
  .option('--out <FILE>', 'where to write the tracks: .json (lurn-tracks) or .csv')
  .addOption(forceOption())
  .option(
    '--suggest <N>',
    'find the N places best followed, print them with their scores, and follow them too',
    parseNumber('The number of suggestions', 1, 1000),
  )
  .option('--scene', 'find how the whole picture moves instead, and what moves alike in it')
  .option('--json', 'with --scene: print the groups as JSON')
  .option('--frame <FRAME>', 'for --suggest: the frame to look at', parseFrame, 0)
  .addOption(
    new Option(
      '--within <X,Y,W,H>',
      "for --suggest and --scene: an area to look in, or a polygon, 'X,Y X,Y X,Y'; may be repeated",
    )
      .argParser(repeated(parseArea))
      .default([], 'the whole picture'),
  )
  .addOption(
    new Option(
      '--without <X,Y,W,H>',
      'for --suggest and --scene: an area to keep out of, or a polygon; may be repeated',
    )
      .argParser(repeated(parseArea))
      .default([], 'none'),
  )
  .addHelpText('after', exitCodes)
  .action(async (clip: string, args: TrackArguments) => {
    losses = await track(clip, args);
  });

const list = (text: string): string[] => text.split(',').map((part) => part.trim());

addInputOptions(program.command('tracks'))
  .description('Take tracks in from elsewhere, or from one form to another: tables and lurn-tracks JSON.')
  .requiredOption('--in <FILE>', 'a table (comma, semicolon, tab) or lurn-tracks JSON')
  .requiredOption('--out <FILE>', 'where to write them: .json (lurn-tracks) or .csv')
  .addOption(forceOption())
  .option('--columns <LIST>', 'which column is which, like frame=Nr,x=Left,y=Top', parseColumns)
  .addOption(new Option('--units <UNITS>', 'what x and y are in').choices(lengthUnits))
  .option('--y-up', 'y goes upwards, from the bottom edge')
  .option('--first-frame <N>', 'the number its first frame has (default: 0)', parseFrame)
  .addOption(new Option('--angles <UNITS>', 'what the rotation is in').choices(angleUnits))
  .option('--only <NAMES>', 'only these tracks', list)
  .option('--join <NAMES>', 'make one track of these pieces of one feature, named like the first', list)
  .option(
    '--smooth <FRAMES>',
    'smooth the paths: standard deviation of the Gaussian; keys stay',
    parseNumber('The smoothing', 0.3, 500),
  )
  .option('--range <A:B>', 'first and last frame to keep, both included', parseRange)
  .addHelpText('after', exitCodes)
  .action(async (clip: string, args: Parameters<typeof convertTracks>[1]) => {
    losses = await convertTracks(clip, args);
  });

addPointOptions(
  addEncodingOptions(addInputOptions(program.command('steady'))).description(
    'Take the motion of the scene or of points out of a clip and write the steadied movie.',
  ),
)
  .requiredOption('--out <FILE.mp4>', 'the movie to write: H.264, same size, rate and sound')
  .addOption(forceOption())
  .option('--tracks <FILE.json>', 'tracks made before, instead of points')
  .option(
    '--scene',
    'find how the whole picture moves and take that out, alone or together with tracks or points',
  )
  .option(
    '--group <N>',
    'with --scene: the motion group to hold, as they are printed; 1 is the one proposed',
    parseNumber('The group', 1, 64),
  )
  .option('--json', 'with --scene: print the groups as JSON')
  .addOption(
    new Option(
      '--model <MODEL>',
      'what the motion may do (default: of a scene the simplest that explains it, of points a similarity)',
    ).choices(motionModels),
  )
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
  .addOption(
    new Option(
      '--kind <KIND>',
      'how to smooth: even, a Gaussian; composed, the steadiest path that fits into the zoom (fit: the one that even would need)',
    ).choices(smoothKinds),
  )
  .option(
    '--rolling-shutter <HOW>',
    'auto: taken out as the --scene tells it (the default); off; or the share of a frame it was read over, by hand',
    parseRollingShutter,
  )
  .option(
    '--strength <LIST>',
    'how much of each channel is taken out, 0 to 1, like x=1,rotation=0.5',
    parseStrength,
    {},
  )
  .option('--channels <LIST>', 'what is taken out', parseChannels, parseChannels('x,y,rotation,scale'))
  .option(
    '--reference <FRAME>',
    'the frame that is left as it is; the first tracked one if not given',
    parseFrame,
  )
  .option(
    '--zoom <ZOOM>',
    'fit: the smallest that leaves no bare edge (the default); varying: the same, slowly changing; none; or a factor; a recipe has its own',
    parseZoom,
  )
  .option(
    '--restlessness <SHARE>',
    'for varying: 0, the smallest constant zoom, to 1, up to 8 % a second (default: 0.5)',
    parseNumber('The restlessness', 0, 1),
  )
  .option(
    '--size <WxH>',
    'the size of the output; the clip just covers it at zoom 1 (default: the clip’s)',
    parseSize,
  )
  .addOption(new Option('--edge <EDGE>', 'what bare edges show (default: black)').choices(edgeKinds))
  .addOption(
    new Option(
      '--unfilled <EDGE>',
      'with --edge fill: what shows where no frame fills (default: mirror)',
    ).choices(unfilledKinds),
  )
  .addOption(
    new Option('--resample <HOW>', 'how pixels are taken from between others (default: bicubic)').choices(
      Object.keys(resamplingNames),
    ),
  )
  .option(
    '--recipe <FILE.json>',
    'all that was chosen for a clip, as `lurn recipe` prints it: followed anew here',
  )
  .addOption(onlyOption())
  .option('--motion <FILE.json>', 'also write the motion and the placement of every frame (lurn-motion)')
  .addHelpText('after', exitCodes)
  .action(async (clip: string, args: SteadyArguments) => {
    losses = await steady(clip, args);
  });

program
  .command('recipe')
  .description(
    'Print all that was chosen for a clip of a project file, to be run on other clips by steady --recipe.',
  )
  .argument('<project>', 'a project file, .lurn.zip')
  .argument('<clip>', "the clip's name in it")
  .option('--samples', 'with everything that was followed, not only the keys')
  .addHelpText('after', exitCodes)
  .action(recipe);

addInputOptions(program.command('report'))
  .description('Say what a motion file comes to: shake before and after, and what the zoom costs.')
  .requiredOption('--motion <FILE.json>', 'as written by steady --motion')
  .option('--json', 'as JSON')
  .addHelpText('after', exitCodes)
  .action(report);

addEncodingOptions(addInputOptions(program.command('compare')))
  .description('Write a movie that shows a clip together with what was made of it.')
  .argument('<out>', 'the movie that was made of it')
  .addOption(
    new Option(
      '--layout <LAYOUT>',
      'side: beside each other; stack: above each other; wipe: an edge that moves',
    )
      .choices(pairLayouts)
      .default('side'),
  )
  .option(
    '--range <A:B>',
    'the frames of the clip, both included; the movie may show these alone',
    parseRange,
  )
  .option('--no-words', 'without the words before and after')
  .requiredOption('--out <FILE>', 'the movie to write')
  .addOption(forceOption())
  .addHelpText('after', exitCodes)
  .action(compare);

addEncodingOptions(addInputOptions(program.command('dress')))
  .description(
    'Draw the layers of a recipe onto a clip: covers, colour changes, pictures that stick to what moves.',
  )
  .requiredOption(
    '--recipe <FILE.json>',
    'tracks (or points to follow) and layers, as docs/formats.md has them',
  )
  .addOption(onlyOption())
  .requiredOption('--out <FILE>', 'the movie to write')
  .addOption(forceOption())
  .addHelpText('after', exitCodes)
  .action(async (path: string, args: DressArguments) => {
    losses = await dress(path, args);
  });

addEncodingOptions(addInputOptions(program.command('give-back')))
  .description('Put the original motion back onto a movie that was treated in its held form.')
  .requiredOption('--treated <FILE>', 'the held movie, treated: the frames and the size that were exported')
  .requiredOption('--motion <FILE.json>', 'as written by steady --motion when it was held')
  .requiredOption('--out <FILE>', 'the movie to write')
  .addOption(forceOption())
  .addHelpText('after', exitCodes)
  .action(giveBack);

/** Options that name files to be read; the motion is written by what steadies. */
const readOptions = ['recipe', 'tracks', 'in', 'treated', 'motion'];
const writeOptions = ['out', 'motion'];

/** Before any work: what is read is there, and nothing of it would be written over. */
function requireFiles(command: Command): void {
  const given = command.opts<Record<string, unknown>>();
  const steadies = command.name() === 'steady';
  const named = (names: readonly string[]): string[] =>
    names.flatMap((name) => (typeof given[name] === 'string' ? [given[name]] : []));
  const read = named(readOptions.filter((name) => name !== 'motion' || !steadies));
  const files = command.name() === 'recipe' ? command.args.slice(0, 1) : command.args;
  files.forEach(noteInput);
  read.forEach(requireInput);
  for (const path of named(writeOptions.filter((name) => name !== 'motion' || steadies)))
    requireOutput(path, { force: given.force === true });
}

// Whoever reads no further, as `head` does, has what was wanted.
process.stdout.on('error', ({ code }: NodeJS.ErrnoException) => process.exit(code === 'EPIPE' ? 0 : 1));

try {
  program.commands.forEach((command) =>
    command.exitOverride().configureOutput({ outputError: () => undefined }),
  );
  program.hook('preAction', async (_, command) => {
    requireFiles(command);
    await checkTools();
  });
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
