import type { LiveConnection, OwnScreenSender, SealedLine, ShownMark, VoicePort } from '@porch/client';
import { presentParticipants, type SessionCommand } from '@porch/core';
import {
  camera,
  drawing,
  Host,
  isLooker,
  ownScreen,
  privateMoments,
  speaking,
  watchersOf,
  type HostAbility,
  type Journal,
} from '@porch/host';
import { BrowserSound, canSpeak } from '@porch/pages/sound';
import { type MarkMessage, type PictureMessage, realClock, realRandomness } from '@porch/wire';
import { PageCamera } from './page-camera.ts';
import type { PageShown } from './page-shown.ts';
import type { PageVoice } from './page-voice.ts';

/** What the page does with what its host says. */
export interface PageEnd {
  /** What it shows; nothing hears it while nothing is shown. */
  readonly picture: Pick<OwnScreenSender, 'setWatchers' | 'take' | 'relay'>;
  showMarks(marks: readonly ShownMark[]): void;
  /** What the person here draws on their copy. */
  onOwnMark(listener: (message: MarkMessage) => void): () => void;
  /** Nobody may see anything any longer: what nobody may see is not captured, either. */
  onNobodyMayLook(): void;
  readonly voice: PageVoice;
  readonly camera: PageCamera;
  readonly shown: PageShown;
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
        ({ from, message }) => end.picture.take(from.seat, message),
        (from) => isLooker(kit, from.signKey),
      ),
      connection.on('frame', ({ frame, bytes }) => {
        if (frame.channel === 'screen' && frame.senderSeat === 0) end.picture.relay(frame, bytes);
      }),
    ];
    return {
      changed() {
        end.picture.setWatchers(watchersOf(kit));
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

/** This page's microphone and speakers, and what it shows of them. */
function pageVoice({ voice, trouble }: PageEnd): VoicePort {
  const sound = new BrowserSound((error) => trouble(String(error)));
  return {
    openMicrophone: (take, onGone) => sound.openMicrophone(take, onGone),
    speaker: () => sound.speaker(),
    show: (now) => voice.show(now),
    close: () => sound.close(),
  };
}

/** The same holder of consent and the same leases as Doorstep has, for the one picture of this page. */
export function pageHost(connection: LiveConnection, line: SealedLine<PictureMessage>, end: PageEnd): Host {
  const host = new Host({
    connection,
    abilities: [pagePicture(end, line), drawing, speaking, camera, ownScreen, privateMoments],
    ports: {
      person: { answersElsewhere: true, ask: () => Promise.resolve(undefined), onLocalInput: nothing },
      // The page itself says what is allowed, and has Stop in sight at all times.
      banner: {
        showBanner: () => Promise.resolve(),
        onStop: nothing,
        onHideWanted: nothing,
        onPrivateWanted: nothing,
        onFilesWanted: nothing,
        onMuteWanted: (listener) => end.voice.onMuteWanted(listener),
        onDrawWanted: nothing,
        onTakeBackWanted: nothing,
      },
      // A copy in the page: what is drawn on it is not in the picture, so everybody is told.
      ink: {
        isInPicture: false,
        showMarks: (marks) => {
          end.showMarks(marks);
          return Promise.resolve();
        },
        onOwnMark: (listener) => end.onOwnMark(listener),
      },
      ...(canSpeak ? { voice: pageVoice(end) } : {}),
      ...(PageCamera.isPossible ? { camera: end.camera } : {}),
      shownScreen: end.shown,
    },
    journal: journalOfPage(),
    desk: {
      deskName: '',
      deskPhone: '',
      noticeVersion: '',
      awayAfterMs: Infinity,
      controlNeedsComparedWords: false,
      maxClipboardBytes: 0,
      refusedFileKinds: [],
      untouchedPrograms: [],
      maxSafePointBytes: 0,
      rightsMs: 0,
      carefulLabels: [],
      maxFileBytes: 0,
    },
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
