import { spawn } from 'node:child_process';
import { existsSync, statSync } from 'node:fs';
import { connect } from 'node:net';
import { createInterface } from 'node:readline';
import { CliError, exitCodes } from '../exit-codes.ts';
import { sessionOfSocket, socketFile, socketsHere } from '../home.ts';
import { Answer, type Call } from './calls.ts';

const START_MS = 10_000;

/** Starts the process that keeps a session open, unless there is one. */
export async function startKeeper(sessionId: string): Promise<void> {
  if (existsSync(socketFile(sessionId)) && (await isAlive(socketFile(sessionId)))) return;
  const child = spawn(process.execPath, [process.argv[1] ?? '', 'keep', sessionId], {
    detached: true,
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  await new Promise<void>((resolve, reject) => {
    let errors = '';
    const timer = setTimeout(
      () => reject(new CliError('The session could not be opened in time; try again.', exitCodes.unreachable)),
      START_MS,
    );
    child.stderr.on('data', (part: Buffer) => (errors += part.toString()));
    child.stdout.once('data', () => {
      clearTimeout(timer);
      resolve();
    });
    child.once('exit', () => {
      clearTimeout(timer);
      reject(
        new CliError(errors.trim().replace(/^porch: /, '') || 'The session could not be opened.', exitCodes.refused),
      );
    });
  });
  child.stdout.destroy();
  child.stderr.destroy();
  child.unref();
}

/** Whether the process behind a socket is still there. */
export function isAlive(path: string): Promise<boolean> {
  return new Promise((resolve) => {
    const socket = connect(path, () => {
      socket.destroy();
      resolve(true);
    });
    socket.on('error', () => resolve(false));
  });
}

/** The socket of the session that is meant: by the start of its id, or the one opened last. */
function socketFor(session: string | undefined): string {
  const start = session?.slice(0, 8).toLowerCase() ?? '';
  const fitting = socketsHere().filter((path) => sessionOfSocket(path).startsWith(start));
  const [newest] = fitting.sort((a, b) => statSync(b).mtimeMs - statSync(a).mtimeMs);
  if (newest) return newest;
  throw new CliError(
    session
      ? `No session ${session} is open here. Open it: porch open ${session}`
      : 'No session is open here. Start one: porch start MF-201',
    exitCodes.noSession,
  );
}

/** One call to the keeper. `onMore` gets what comes before the last answer. */
export function callKeeper(
  session: string | undefined,
  call: Call,
  onMore: (value: unknown) => void = () => undefined,
): Promise<unknown> {
  const path = socketFor(session);
  return new Promise((resolve, reject) => {
    const gone = () => reject(new CliError('The session is not open here any longer.', exitCodes.noSession));
    const socket = connect(path, () => socket.write(`${JSON.stringify(call)}\n`));
    socket.on('error', gone);
    socket.on('close', gone);
    createInterface({ input: socket }).on('line', (line) => {
      const answer = Answer.parse(JSON.parse(line));
      if (answer.is === 'more') return onMore(answer.value);
      socket.removeListener('close', gone);
      socket.destroy();
      if (answer.is === 'done') resolve(answer.value);
      else
        reject(
          new CliError(
            `${answer.message}${answer.code === 'REFUSED_THERE' ? '' : ` (${answer.code})`}`,
            exitCodes.refused,
          ),
        );
    });
  });
}
