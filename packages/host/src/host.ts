import { inBackground, type LiveConnection } from '@porch/client';
import { isOver, type Permission, type SessionCommand } from '@porch/core';
import { bannerOf } from './banner.ts';
import { askAtTheDoor } from './consent/at-the-door.ts';
import { ConsentHolder } from './consent/consent-holder.ts';
import { FactTeller, type Journal } from './consent/fact-teller.ts';
import { GrantBook } from './consent/grant-book.ts';
import { Held } from './consent/held.ts';
import { PossibleTeller } from './possible-teller.ts';
import { QuestionQueue } from './consent/question-queue.ts';
import type { ServicePlace } from './consent/questions.ts';
import type { Clock, Randomness } from '@porch/wire';
import { nothingShared, type DeskFacts, type HostAbility, type HostLog, type Kit, type Running } from './kit.ts';
import type { HostPorts } from './ports/host-ports.ts';
import { host } from '@porch/words/host';
import { cannotWith, hostAbilityOf } from './what-is-possible.ts';

export interface HostParts {
  /** Ready: everything up to now has arrived. */
  readonly connection: LiveConnection;
  readonly abilities: readonly HostAbility[];
  readonly ports: HostPorts;
  readonly journal: Journal;
  readonly desk: DeskFacts;
  readonly place: ServicePlace;
  /** What the person here is called, where nobody else said. */
  readonly personName: string;
  readonly time: Clock;
  readonly log: HostLog;
  readonly random: Randomness;
}

/** What an ability undoes when it ends gets this long. */
const UNDO_MS = 2_000;

/** The customer's side of one session: holds the consent, and lets each ability do its part as far as that goes. */
export class Host {
  readonly #parts: HostParts;
  readonly #grants: GrantBook;
  readonly #facts: FactTeller;
  readonly #questions: QuestionQueue;
  readonly #holder: ConsentHolder;
  readonly #kit: Kit;
  readonly #offs: (() => void)[];
  #running: readonly Running[] = [];
  #shownBanner = '';
  readonly #possible: PossibleTeller;
  #isClosing = false;
  #tellStopped: () => void = () => undefined;
  /** Resolves when the person here stopped everything. */
  readonly stopped = new Promise<void>((resolve) => (this.#tellStopped = resolve));

  constructor(parts: HostParts) {
    this.#parts = parts;
    const { connection, ports, time, log, desk, place } = parts;
    const changed = () => inBackground('showing what changed', this.#showChanged());
    this.#grants = new GrantBook(connection.keys, connection.sessionId, connection.state.lastGrantNumber);
    const held = new Held(this.#grants, time, () => connection.serviceNowMs, changed);
    held.pausedBy = (permission, signKey) => {
      for (const one of this.#running) {
        const why = one.pauses?.(permission, signKey);
        if (why !== undefined) return why;
      }
      return undefined;
    };
    this.#facts = new FactTeller(connection, parts.journal, time, log);
    const report = (make: (fact: number) => SessionCommand) => this.#facts.report(make);
    this.#questions = new QuestionQueue(ports.person, connection, changed);
    this.#holder = new ConsentHolder({
      connection,
      grants: this.#grants,
      questions: this.#questions,
      deskName: desk.deskName,
      place,
      cannot: () => cannotWith(parts.abilities, ports),
      time,
      log,
      abilities: () => this.#running,
      warn: (asked) => hostAbilityOf(asked.permission, parts.abilities)?.warn?.(asked, ports),
      report,
      answersElsewhere: ports.person.answersElsewhere ?? false,
      onChanged: changed,
    });
    this.#kit = this.#makeKit(held, changed, report);
    this.#possible = new PossibleTeller(connection, () => cannotWith(parts.abilities, ports), time, log);
    const stop = (why: string) => this.#holder.stop(why);
    this.#offs = [
      ports.onMissingChanged?.(changed) ?? (() => undefined),
      ports.banner.onStop(() => stop('pressed Stop at the desktop')),
      ports.banner.onTakeBackWanted(() => this.#holder.takeHandsBack('taken back by a key at the desktop')),
      connection.on('viewers', changed),
      connection.on('status', (status) => {
        // Without the service nobody watches; the grants stay, for the line may come back.
        if (status !== 'live') connection.viewers = [];
        changed();
      }),
    ];
  }

  #makeKit(held: Held, changed: () => void, report: Kit['report']): Kit {
    const { connection, ports, time, log, desk, place, personName, random } = this.#parts;
    const stop = (why: string) => this.#holder.stop(why);
    const shared = nothingShared();
    const { questions, holder } = { questions: this.#questions, holder: this.#holder };
    return {
      connection,
      held,
      ports,
      shared,
      log,
      time,
      desk,
      get words() {
        return host[connection.state.language];
      },
      random,
      inTurn: (work) => questions.inTurn(work),
      ask: (question, signal) => questions.inTurn((put) => put(question, signal)),
      get isAsking() {
        return questions.isOpen;
      },
      askAtTheDoor: () => askAtTheDoor({ connection, questions, desk, place, personName, stop }),
      report,
      withdraw: (participantId, permission, why) => holder.withdraw(participantId, permission, why),
      stop,
      get isStopped() {
        return holder.isStopped;
      },
      changed,
      shown: () => this.#showChanged(),
    };
  }

  /** Begins every ability, and takes up what came before: asks that are open, facts that a crash kept from being told. */
  begin(): void {
    this.#running = this.#parts.abilities.map((ability) => ability.begin(this.#kit));
    // A visit begins with the second secret; whoever sits here is asked only when the technician wants that.
    if (!this.#parts.ports.visit && !this.#parts.ports.person.answersElsewhere)
      this.#kit
        .askAtTheDoor()
        .catch((error: unknown) =>
          this.#parts.log.warn({ why: String(error) }, 'the questions at the door were not answered'),
        );
    this.#facts.deliver();
    this.#holder.follow();
  }

  /**
   * The person said yes in a form of their own: exactly this is granted. Throws with what the service refuses; then
   * nothing is held, either.
   */
  async allow(askId: string, permissions: readonly Permission[]): Promise<void> {
    const ask = this.#parts.connection.state.asks[askId];
    if (ask) await this.#holder.allow(ask, permissions);
  }

  /** Nothing of this, or nothing at all, is allowed anybody any longer; the service hears of it elsewhere. */
  giveUp(only?: readonly Permission[]): void {
    if (only) for (const permission of only) this.#grants.dropFromAll(permission);
    else this.#grants.dropAll();
    this.#kit.changed();
  }
  get holdsNothing(): boolean {
    return this.#grants.isEmpty;
  }

  /** The screen itself is gone: nothing that was allowed can be kept to. */
  loseScreen(): void {
    if (this.#isClosing || isOver(this.#parts.connection.state)) return;
    this.#grants.dropAll();
    this.#facts.report((fact) => ({ type: 'loseScreen', why: 'the screen of the computer went away', fact }));
  }

  /** Ends every ability, at once and without the service. Facts are told further, until `end`. */
  async close(): Promise<void> {
    if (this.#isClosing) return;
    this.#isClosing = true;
    this.#grants.dropAll();
    this.#offs.forEach((off) => off());
    this.#holder.close();
    this.#possible.close();
    this.#questions.close();
    await Promise.all(this.#running.map((one) => this.#undo(one)));
    this.#kit.held.close();
    await this.#parts.ports.banner.showBanner(undefined).catch(() => undefined); // The desktop itself may be gone.
  }

  end(): void {
    this.#facts.end();
  }

  async #undo(one: Running): Promise<void> {
    const { time, log } = this.#parts;
    let cancel: () => void = () => undefined;
    const tooLong = new Promise<void>((resolve) => {
      cancel = time.after(UNDO_MS, () => {
        log.error({ forMs: UNDO_MS }, 'an ability was not undone in time');
        resolve();
      });
    });
    try {
      await Promise.race([one.close(), tooLong]);
    } catch (error) {
      log.error({ err: error }, 'an ability could not be undone');
    } finally {
      cancel();
    }
  }

  /** Everything that follows from what is allowed: what each ability does, and what the bar says. */
  async #showChanged(): Promise<void> {
    const { ports, log } = this.#parts;
    if (this.#holder.isStopped) this.#tellStopped();
    if (this.#isClosing) return;
    this.#kit.held.follow();
    for (const one of this.#running) one.changed?.();
    this.#possible.follow();
    const words = bannerOf(this.#kit, this.#running);
    const key = JSON.stringify(words);
    if (key === this.#shownBanner) return;
    this.#shownBanner = key;
    await ports.banner
      .showBanner(words)
      .catch((error: unknown) => log.error({ err: error }, 'the banner cannot be shown'));
  }
}
