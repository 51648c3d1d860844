import { LiveConnection, RestClient, fetchExchange, type SocketLike } from '@porch/client';
import { isOver } from '@porch/core';
import { makeKeys, type AppError } from '@porch/wire';
import { hostname, userInfo } from 'node:os';
import type { Logger } from 'pino';
import { WebSocket } from 'ws';
import { ConsentHolder } from './consent/consent-holder.ts';
import { FactJournal } from './consent/fact-journal.ts';
import { GrantBook } from './consent/grant-book.ts';
import { bannerWords } from './consent/questions.ts';
import type { Desktop } from './desktop/desktop.ts';
import { FileDesk } from './files/file-desk.ts';
import { LeaseKeeper } from './input/lease-keeper.ts';
import { PictureSender } from './picture/picture-sender.ts';

export interface DoorstepOptions {
  readonly serviceUrl: string;
  /** What lets us in: the token of a link, or the digits of a code. */
  readonly invitation: { link: string } | { code: string };
  readonly desktop: Desktop;
  readonly stateFolder: string;
  readonly home: string;
  readonly downloads: string;
  readonly log: Logger;
}

/** What is still to be delivered after the end gets this long; after a signal only a moment. The journal keeps the rest. */
const FAREWELL_MS = 10 * 60_000;
const HURRIED_FAREWELL_MS = 1_500;

/** Joins a session and serves it until it ends. Resolves with why it ended. */
export async function runDoorstep(options: DoorstepOptions, signal: AbortSignal): Promise<string> {
  const { desktop, log, serviceUrl } = options;
  const rest = new RestClient(fetchExchange(serviceUrl));
  const joined = await rest.join({ ...options.invitation, as: 'doorstep' });
  rest.token = joined.token;
  const connection = new LiveConnection({
    ticket: () => rest.doorLive(),
    openSocket: (url) => new WebSocket(url) as unknown as SocketLike,
    keys: makeKeys(),
    computer: hostname(),
  });
  const ended = new Promise<string>((resolve) => {
    connection.on('failed', (error: AppError) => resolve(error.message));
    connection.on('entry', () => {
      if (isOver(connection.state)) resolve('the session has ended');
    });
    connection.on('caughtUp', () => {
      if (connection.state.participants[connection.participantId]?.isGone) resolve('the line was gone for too long');
    });
    signal.addEventListener('abort', () => resolve('Doorstep was closed'), { once: true });
  });
  await Promise.race([connection.ready(), ended]);

  const journal = new FactJournal(options.stateFolder, joined.door.sessionId);
  const grants = new GrantBook(connection.keys, joined.door.sessionId, connection.state.lastGrantNumber);
  const picture = new PictureSender(connection, desktop);
  let banner = '';
  const parts = { connection, desktop, grants, journal, log, desk: joined.door, personName: userInfo().username };
  const holder: ConsentHolder = new ConsentHolder({ ...parts, onChanged: () => onChanged() });
  const lease: LeaseKeeper = new LeaseKeeper({
    ...parts,
    holder,
    replacedAtMs: (update) => picture.replacedAtMs(update),
    displayGeneration: () => picture.generation,
    onChanged: () => onChanged(),
  });
  const files = new FileDesk({ ...parts, holder, home: options.home, downloads: options.downloads });
  const isWatched = () =>
    connection.viewers.some((seat) => {
      const viewer = Object.values(connection.state.participants).find((p) => p.seat === seat);
      return viewer !== undefined && grants.holds('view-screen', viewer.signKey, connection.serviceNowMs);
    });
  /** Everything that follows from what is allowed: the lease, the picture, the banner. */
  function onChanged(): void {
    lease.check();
    void picture
      .setWanted(isWatched() && !holder.isStopped)
      .catch((error: unknown) => log.error({ err: error }, 'the screen cannot be watched'));
    const nowMs = connection.serviceNowMs;
    const words = bannerWords(connection.state, lease.isOpen, (permission, signKey) =>
      grants.holds(permission, signKey, nowMs),
    );
    const key = JSON.stringify(words);
    if (key === banner) return;
    banner = key;
    void desktop.showBanner(words).catch((error: unknown) => log.error({ err: error }, 'the banner cannot be shown'));
  }
  connection.on('viewers', onChanged);
  connection.on('status', (status) => {
    // Without the service nobody watches; the grants stay, for the line may come back.
    if (status !== 'live') connection.viewers = [];
    onChanged();
  });
  let isEnding = false;
  const screenGone = new Promise<string>((resolve) => {
    desktop.onGone((why) => {
      // Closed by ourselves at the end, or the end came first: then it is no loss.
      if (isEnding || isOver(connection.state) || signal.aborted) return;
      log.error({ why: why.message }, 'the screen is gone');
      grants.dropAll();
      holder.report((fact) => ({ type: 'loseScreen', why: 'the screen of the computer went away', fact }));
      resolve('the screen is gone');
    });
  });
  const stopped = new Promise<string>((resolve) => {
    const timer = setInterval(() => {
      if (!holder.isStopped) return;
      clearInterval(timer);
      resolve('the person here pressed Stop');
    }, 100);
    void ended.then(() => clearInterval(timer));
  });

  holder
    .askAtTheDoor()
    .catch((error: unknown) => log.warn({ why: String(error) }, 'the questions at the door were not answered'));
  holder.begin();
  const why = await Promise.race([ended, screenGone, stopped]);

  isEnding = true;
  grants.dropAll();
  lease.close();
  files.close();
  picture.close();
  holder.close();
  await desktop.showBanner(undefined).catch(() => undefined);
  if (signal.aborted && !isOver(connection.state))
    connection.command({ type: 'leaveSession', reason: 'Doorstep was closed' }).catch(() => undefined);
  await delivered(journal, connection, signal);
  await journal.close();
  connection.close();
  return why;
}

/** Waits until the service has every fact, and no longer than is decent when somebody wants us gone. */
async function delivered(journal: FactJournal, connection: LiveConnection, signal: AbortSignal): Promise<void> {
  const startedAt = Date.now();
  const giveUpAt = () => startedAt + (signal.aborted ? HURRIED_FAREWELL_MS : FAREWELL_MS);
  while (journal.waiting.length && connection.status !== 'closed' && Date.now() < giveUpAt())
    await new Promise((resolve) => setTimeout(resolve, 50));
}
