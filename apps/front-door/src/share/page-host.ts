import type { LiveConnection, SealedLine, ShownMark } from '@porch/client';
import { presentParticipants, type SessionCommand } from '@porch/core';
import { drawing, Host, isLooker, privateMoments, watchersOf, type HostAbility, type Journal } from '@porch/host';
import { type PictureMessage, realClock, realRandomness } from '@porch/wire';
import type { ToShareWorker } from './share-messages.ts';

/** What the page does with what its host says. */
export interface PageEnd {
  post(message: ToShareWorker): void;
  showMarks(marks: readonly ShownMark[]): void;
  /** Nobody may see anything any longer: what nobody may see is not captured, either. */
  onNobodyMayLook(): void;
  trouble(what: string): void;
}

/** The page's picture is made in a worker; who may see it, and what they say to it, goes through here. */
const pagePicture = (end: PageEnd, line: SealedLine<PictureMessage>): HostAbility => ({
  name: 'picture',
  whyNot: () => undefined,
  begin(kit) {
    const { connection } = kit;
    let hasBeenHeld = false;
    const offs = [
      line.listen(
        ({ from, message }) => end.post({ type: 'look', seat: from.seat, message }),
        (from) => isLooker(kit, from.signKey),
      ),
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'screen' && frame.senderSeat === 0) end.post({ type: 'relay', bytes: bytes.slice() });
      }),
    ];
    return {
      changed() {
        end.post({ type: 'watchers', watchers: watchersOf(kit) });
        const mayLook = presentParticipants(connection.state).some((p) => isLooker(kit, p.signKey));
        if (hasBeenHeld && !mayLook) end.onNobodyMayLook();
        hasBeenHeld = mayLook;
      },
      close: () => offs.forEach((off) => off()),
    };
  },
});

/** A page forgets with its tab what it could not tell. */
function journalOfPage(): Journal {
  const waiting = new Map<string, SessionCommand>();
  let fact = 0;
  return {
    get waiting() {
      return [...waiting].map(([id, command]) => ({ id, command }));
    },
    add(make) {
      const id = crypto.randomUUID();
      const command = make(++fact);
      waiting.set(id, command);
      return { id, command, written: Promise.resolve() };
    },
    markDelivered: (id) => void waiting.delete(id),
  };
}

const nothing = () => () => undefined;

/** The same holder of consent and the same leases as Doorstep has, for the one picture of this page. */
export function pageHost(connection: LiveConnection, line: SealedLine<PictureMessage>, end: PageEnd): Host {
  const host = new Host({
    connection,
    abilities: [pagePicture(end, line), drawing, privateMoments],
    ports: {
      person: { answersElsewhere: true, ask: () => Promise.resolve(undefined), onLocalInput: nothing },
      // The page itself says what is allowed, and has Stop in sight at all times.
      banner: {
        showBanner: () => Promise.resolve(),
        onStop: nothing,
        onHideWanted: nothing,
        onPrivateWanted: nothing,
        onTakeBackWanted: nothing,
      },
      copy: { showMarks: (marks) => end.showMarks(marks) },
    },
    journal: journalOfPage(),
    desk: { deskName: '', deskPhone: '', noticeVersion: '', awayAfterMs: Infinity, controlNeedsComparedWords: false },
    place: { address: location.host },
    personName: '',
    time: realClock,
    log: {
      info: () => undefined,
      warn: (_what, words) => end.trouble(words),
      error: (_what, words) => end.trouble(words),
    },
    random: realRandomness,
  });
  host.begin();
  return host;
}
