import { Command } from 'commander';
import { screenBench } from './screen-bench.ts';

const program = new Command('bench').description('What things cost, measured against a yardstick in the same run.');
program
  .command('screen', { isDefault: true })
  .description(
    'typing, scrolling and dragging a window on a real 1920×1080 display, through Doorstep and relay to a viewer',
  )
  .option('--seconds <n>', 'how long each scene runs', '6')
  .option('--json', 'print the numbers as JSON')
  .action(screenBench);
await program.parseAsync();
