import { readFileSync } from 'node:fs';
import { createInterface } from 'node:readline';

/**
 * What nobody looking on, no list of processes and no history of a shell is to see: from standard input, or asked for at
 * the terminal without showing it. Undefined when there is no terminal to ask at.
 */
export async function readHidden(prompt: string, isFromStdin: boolean): Promise<string | undefined> {
  if (isFromStdin) return readFileSync(0, 'utf8').replace(/\r?\n$/, '');
  if (!process.stdin.isTTY) return undefined;
  process.stderr.write(prompt);
  const reader = createInterface({ input: process.stdin, terminal: true, output: undefined });
  process.stdin.setRawMode(true);
  return new Promise((done) => {
    reader.once('line', (line) => {
      process.stdin.setRawMode(false);
      reader.close();
      process.stderr.write('\n');
      done(line);
    });
  });
}
