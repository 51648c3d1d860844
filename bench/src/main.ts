import { Command } from 'commander';
import { abilitiesBench } from './abilities-bench.ts';
import { filesBench } from './files-bench.ts';
import { fixingBench } from './fixing-bench.ts';
import { floodBench } from './flood-bench.ts';
import { flooders } from './flooders.ts';
import { ledgerBench } from './ledger-bench.ts';
import { linesBench } from './lines-bench.ts';
import { liveBench } from './live-bench.ts';
import { paintBench } from './paint-bench.ts';
import { porchBench } from './porch-bench.ts';
import { recordBench } from './record-bench.ts';
import { relayBench } from './relay-bench.ts';
import { screenBench } from './screen-bench.ts';
import { sessionsBench } from './sessions-bench.ts';
import { stageBench } from './stage-bench.ts';
import { viewerBench } from './viewer-bench.ts';
import { waysBench } from './ways-bench.ts';

const program = new Command('bench').description('What things cost, measured against a yardstick in the same run.');
program
  .command('live')
  .description(
    'typing, scrolling and dragging a window on a real 1920×1080 display, through Doorstep and relay to a viewer',
  )
  .option('--seconds <n>', 'how long each scene runs', '6')
  .option('--json', 'print the numbers as JSON')
  .action(liveBench);
program
  .command('screen', { isDefault: true })
  .description('bytes and time of recorded or drawn scenes, against general-purpose encoders; checks every pixel')
  .option('--corpus <folder>', 'a folder of recorded screens (*.fsc); without it the bench draws scenes itself')
  .option('--chart <file>', 'draws the numbers as an SVG')
  .option('--no-yardsticks', 'only our own numbers')
  .option('--json', 'print the numbers as JSON')
  .action(screenBench);
program
  .command('viewer')
  .description('280 changed tiles decoded and painted in Chromium, against createImageBitmap of a PNG for each')
  .option('--corpus <folder>', 'a folder of recorded screens (*.fsc); without it the bench draws scenes itself')
  .option('--json', 'print the numbers as JSON')
  .action(viewerBench);
program
  .command('relay')
  .description('processor time of the relay for each delivered message, one viewer and four, against nginx')
  .option('--corpus <folder>', 'a folder of recorded screens (*.fsc); without it the bench draws scenes itself')
  .option('--json', 'print the numbers as JSON')
  .action(relayBench);
program
  .command('sessions')
  .description('memory of a session at 1920×1080 in the service, and processor time of 1, 10, 100 and 300 sessions')
  .option('--seconds <n>', 'how long each number of sessions is watched', '8')
  .option('--json', 'print the numbers as JSON')
  .action(sessionsBench);
program
  .command('ledger')
  .description('a command on a ledger of 10,000 entries, against one on a ledger of 100: known to the service, and not')
  .option('--json', 'print the numbers as JSON')
  .action(ledgerBench);
program
  .command('fixing')
  .description('how soon a system report is there, on a whole computer')
  .option('--json', 'print the numbers as JSON')
  .option('--only <part>', 'one part alone: system report, processes, command line, safe point')
  .action(fixingBench);
program
  .command('porch')
  .description('what it costs to tell 300 technicians of 20 events a second, and when the last one hears')
  .option('--seconds <n>', 'how long', '8')
  .option('--readers <n>', 'how many of the 300 look', '300')
  .option('--json', 'print the numbers as JSON')
  .action(porchBench);
program
  .command('record')
  .description('lists and search over a large made record, for a technician and for leads, against a bare request')
  .option('--sessions <n>', 'how many are made', '500000')
  .option('--json', 'print the numbers as JSON')
  .action(recordBench);
program
  .command('abilities')
  .description(
    'what each ability costs on a real desktop: strokes to pixels, a pen that runs, keys beside a large clipboard',
  )
  .option('--seconds <n>', 'how long what goes on is watched', '60')
  .option('--json', 'print the numbers as JSON')
  .action(abilitiesBench);
program
  .command('lines')
  .description('what abilities do over lines of 256 kbit/s, of 700 ms, that stall, and over a break')
  .option('--line <n>', 'one of the three alone')
  .option('--break <minutes>', 'how long the line is gone; 0: not at all', '20')
  .option('--json', 'print the numbers as JSON')
  .action(linesBench);
program
  .command('files')
  .description('a large file to the customer’s computer, against scp -3 over the same hops, and a key meanwhile')
  .option('--megabytes <n>', 'how large', '1024')
  .option('--json', 'print the numbers as JSON')
  .action(filesBench);
program
  .command('stage')
  .description('a key pressed at the stage to changed pixels on its canvas, against the program alone')
  .option('--json', 'print the numbers as JSON')
  .action(stageBench);
program
  .command('ways')
  .description('from "a customer calls" to a picture on the stage, by each way in: presses, words, seconds')
  .option('--json', 'print the numbers as JSON')
  .action(waysBench);
program
  .command('paint')
  .description('first paint of the pages over 1.6 Mbit/s and 150 ms, against the same without compression')
  .option('--json', 'print the numbers as JSON')
  .action(paintBench);
program
  .command('flood')
  .description('what 500 hostile connections cost everybody else, against the same when quiet')
  .option('--seconds <n>', 'how long each is watched', '8')
  .option('--json', 'print the numbers as JSON')
  .action(floodBench);
program.command('flooders', { hidden: true }).argument('<url>').argument('<count>').action(flooders);
program.parseAsync().then(
  () => process.exit(0),
  (error: unknown) => {
    process.stderr.write(`bench: ${String((error as Error).message)}\n`);
    process.exit(1);
  },
);
