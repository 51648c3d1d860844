import { WatchedPictures } from '@porch/client';
import { consentHolderOf, type Participant } from '@porch/core';
import { ownScreenChannel } from '@porch/wire';
import { beginWith, type BannerLine, type HostAbility, type Kit, type Running } from '../kit.ts';
import { whyWithout } from '../ports/host-ports.ts';
import type { ShownScreen, ShownScreenPort } from '../ports/shown-screen-port.ts';

/** Whoever begins again and again does not make windows flicker here. */
const LEAST_GAP_MS = 1_000;

interface Shown {
  readonly showingId: string;
  readonly who: string;
  readonly screen: ShownScreen;
  forget(): void;
}

/** Lets the person here see what a technician shows, while a grant of ours lets that one, and until they close it. */
class OwnScreenHere implements Running {
  readonly #kit: Kit;
  readonly #port: ShownScreenPort;
  readonly #pictures: WatchedPictures;
  #shown: Shown | undefined;
  /** What the person here closed, or what cannot be shown: it is not opened once more. */
  #refusedId: string | undefined;
  #openedAtMs = -Infinity;
  #endGap: (() => void) | undefined;

  constructor(kit: Kit, port: ShownScreenPort) {
    this.#kit = kit;
    this.#port = port;
    this.#pictures = new WatchedPictures(kit.connection, ownScreenChannel);
  }

  changed(): void {
    const wanted = this.#wanted();
    if (this.#shown && this.#shown.showingId !== wanted?.showingId) this.#close();
    if (!wanted || this.#shown || this.#endGap) return;
    const { time } = this.#kit;
    const waitMs = this.#openedAtMs + LEAST_GAP_MS - time.nowMs();
    if (waitMs <= 0) this.#open(wanted.showingId, wanted.technician);
    else
      this.#endGap = time.after(waitMs, () => {
        this.#endGap = undefined;
        this.changed();
      });
  }

  banner(soFar: BannerLine): BannerLine {
    return this.#shown ? { ...soFar, besides: [...soFar.besides, this.#kit.words.ownScreen.shows] } : soFar;
  }
  /** Where nobody looks there is a bar all the same, with Stop on it. */
  barAlone(): { who: string; what: string } | undefined {
    return this.#shown && { who: this.#shown.who, what: this.#kit.words.ownScreen.shows };
  }

  close(): void {
    this.#endGap?.();
    this.#close();
    this.#pictures.close();
  }

  #wanted(): { readonly showingId: string; readonly technician: Participant } | undefined {
    const { connection, held, isStopped } = this.#kit;
    const { state, participantId } = connection;
    const { shown } = state.slices['own-screen'];
    const technician = shown && state.participants[shown.byId];
    if (!technician || technician.isGone || isStopped || shown.showingId === this.#refusedId) return undefined;
    if (consentHolderOf(state)?.id !== participantId || !held.may('show-own-screen', technician.signKey))
      return undefined;
    return { showingId: shown.showingId, technician };
  }

  #open(showingId: string, { seat, name }: Participant): void {
    const { connection, words, log, report, time } = this.#kit;
    this.#openedAtMs = time.nowMs();
    const { ownScreen, kernel } = words;
    const { waiting, close, original, fit } = ownScreen;
    const who = name ?? kernel.technician;
    const end = () => {
      // It was over already.
      if (this.#refusedId === showingId || this.#wanted()?.showingId !== showingId) return;
      this.#refusedId = showingId;
      this.#close();
      report((fact) => ({ type: 'own-screen/tellClosed', showingId, fact }));
      this.#kit.changed();
    };
    const screen = this.#port.open(
      {
        connection,
        seat,
        words: {
          ...{ waiting, close, original, fit },
          title: ownScreen.title({ who }),
          old: (seconds) => ownScreen.old({ seconds }),
        },
      },
      {
        closed: end,
        failed: (error) => {
          log.error({ err: error }, 'what a technician shows cannot be seen');
          end();
        },
        needKey: () => this.#pictures.needKey({ from: seat }),
      },
    );
    const forget = this.#pictures.open(screen);
    this.#shown = { showingId, who, screen, forget };
  }

  #close(): void {
    const shown = this.#shown;
    if (!shown) return;
    this.#shown = undefined;
    shown.forget();
    shown.screen.close();
  }
}

/** Shows the person here what a technician shows of their own screen. */
export const ownScreen: HostAbility = {
  name: 'own-screen',
  whyNot: (_permission, ports) => whyWithout(ports, 'shownScreen'),
  warn: ({ words, firstName }) => words.ownScreen.warn({ first: firstName }),
  begin: (kit) => beginWith(kit.ports.shownScreen, (port) => new OwnScreenHere(kit, port)),
};
