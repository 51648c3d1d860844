import type { Logger } from 'pino';
import { WatchdogKeeper } from './watchdog-keeper.ts';
import { X11Desktop } from './x11/x11-desktop.ts';

/** Opens the desktop with its watchdog, and closes both whatever happens. The signal says when somebody wants us gone. */
export async function withDesktop<T>(
  wanted: { readonly display?: string },
  log: Logger,
  work: (desktop: X11Desktop, signal: AbortSignal, watchdog: WatchdogKeeper) => Promise<T>,
): Promise<T> {
  const display = wanted.display ?? process.env['DISPLAY'];
  if (!display) throw new Error('there is no display: set DISPLAY, or say --display :0');
  const abort = new AbortController();
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, () => abort.abort());
  const watchdog = new WatchdogKeeper(display);
  abort.signal.addEventListener('abort', () => watchdog.noMore(), { once: true });
  // Side by side with coming in: until it is there nothing is pressed, and without it nobody works here.
  const watching = watchdog.start();
  watching.catch(() => abort.abort());
  try {
    const desktop = await X11Desktop.open(
      display,
      (error) => log.warn({ why: error.message }, 'the X server complained'),
      watchdog,
    );
    desktop.onGone(() => watchdog.noMore());
    watchdog.onTrouble = (what) => {
      log.warn({ what }, 'the watchdog went; everything is let go');
      if (what === 'gone') desktop.releaseAll();
      else desktop.giveUpHands();
    };
    try {
      tellWhatIsLacking(desktop);
      const result = await work(desktop, abort.signal, watchdog);
      await watching;
      return result;
    } finally {
      await desktop.close();
    }
  } finally {
    watchdog.close();
  }
}

/** For whoever looks after this computer: the technician reads why in the session. */
function tellWhatIsLacking({ lacking, ports }: X11Desktop): void {
  if (!lacking.length) return;
  const cannot = [
    ...(ports.screen ? [] : ['be seen']),
    ...(ports.hands ? [] : ['be worked with']),
    ...(ports.handsOff?.canCover ? [] : ['be covered']),
  ].join(' nor ');
  process.stderr.write(`doorstep: this display lacks ${lacking.join(', ')}, so it cannot ${cannot}.\n`);
}
