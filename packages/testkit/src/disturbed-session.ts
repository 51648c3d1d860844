import { endProcess, type PersonAtDesk, type XDesktop } from '@porch/demo';
import { verifyRows, type LiveConnection, type RestClient } from '@porch/client';
import type { Permission } from '@porch/core';
import fc from 'fast-check';
import type { ChildProcess } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { startWorking, type House } from './house.ts';
import { PressCounter } from './press-counter.ts';
import type { RecordsLine } from './records-line.ts';
import type { SlowLine } from '@porch/demo';
import { until } from './until.ts';

/** What people do, and what breaks meanwhile. */
export type Step =
  | { readonly do: 'say'; readonly who: 'technician' | 'customer' }
  | { readonly do: 'aside' | 'type' | 'type long' | 'hold Shift' | 'take back' | 'Stop' }
  | { readonly do: 'kill'; readonly what: 'service' | 'Doorstep'; readonly forMs: number }
  | { readonly do: 'freeze'; readonly what: 'service' | 'Doorstep' | 'desktop' | 'records'; readonly forMs: number }
  | { readonly do: 'cut'; readonly what: 'technician' | 'customer' | 'everybody'; readonly forMs: number }
  | { readonly do: 'lose'; readonly what: 'answer to a commit' }
  | { readonly do: 'refuse'; readonly what: 'records'; readonly forMs: number };
export type Schedule = readonly { readonly step: Step; readonly pauseMs: number }[];

const ms = (most: number) => fc.integer({ min: 50, max: most });
const act: fc.Arbitrary<Step> = fc.oneof(
  {
    weight: 5,
    arbitrary: fc.record({ do: fc.constant('say' as const), who: fc.constantFrom('technician', 'customer') }),
  },
  {
    weight: 5,
    arbitrary: fc.record({ do: fc.constantFrom('aside', 'type', 'type', 'type long', 'hold Shift') }),
  },
  { weight: 1, arbitrary: fc.record({ do: fc.constantFrom('take back', 'Stop') }) },
);
const trouble: fc.Arbitrary<Step> = fc.oneof(
  fc.record({ do: fc.constant('kill' as const), what: fc.constantFrom('service', 'Doorstep'), forMs: ms(800) }),
  fc.record({
    do: fc.constant('freeze' as const),
    what: fc.constantFrom('service', 'Doorstep', 'desktop', 'records'),
    forMs: ms(2_500),
  }),
  fc.record({
    do: fc.constant('cut' as const),
    what: fc.constantFrom('technician', 'customer', 'everybody'),
    forMs: ms(1_500),
  }),
  fc.record({ do: fc.constant('lose' as const), what: fc.constant('answer to a commit' as const) }),
  fc.record({ do: fc.constant('refuse' as const), what: fc.constant('records' as const), forMs: ms(2_000) }),
);

/** So many acts, and two to five troubles among them, which overlap as they like. */
export const schedules: fc.Arbitrary<Schedule> = fc
  .tuple(fc.array(act, { minLength: 5, maxLength: 12 }), fc.array(trouble, { minLength: 2, maxLength: 5 }))
  .chain(([acts, troubles]) =>
    fc.shuffledSubarray([...acts, ...troubles], { minLength: acts.length + troubles.length }),
  )
  .chain((steps) =>
    fc.tuple(...steps.map((step) => fc.record({ step: fc.constant(step), pauseMs: fc.integer({ min: 0, max: 250 }) }))),
  );

/** Characters that no keyboard has: each borrows a keycode, so that the whole takes a second. */
const LONG = Array.from({ length: 120 }, (_, i) => String.fromCodePoint(0x4e00 + i * 7)).join('');
/** By when whatever was on its way to the keyboard when the person said stop has come there. */
const ON_ITS_WAY_MS = 250;
/** How long everything may take to be as it was; more is not coming back. */
const BACK_MS = 30_000;

interface Told {
  readonly by: 'technician' | 'customer' | 'aside';
  readonly text: string;
  /** Undefined while nobody knows: what was refused may have been written all the same, once. */
  outcome: 'taken' | 'refused' | undefined;
}

export interface Place {
  readonly house: House;
  readonly records: RecordsLine;
  /** What everybody's live connection goes over. */
  readonly line: SlowLine;
  readonly desktop: XDesktop;
  readonly person: PersonAtDesk;
}

/** What a schedule came to. Everything but the time is a promise. */
export interface Verdict {
  /** From the end of the last trouble to everybody hearing each other, and seeing what may be seen. */
  readonly backAfterMs: number;
  readonly wrong: readonly string[];
}

/** One session in which people go on while things break; at the end it says what is not as it should be. */
export class DisturbedSession {
  readonly #place: Place;
  readonly #rest: RestClient;
  readonly #technician: LiveConnection;
  readonly #customer: LiveConnection;
  readonly #seen: Awaited<ReturnType<typeof startWorking>>;
  readonly #counter: PressCounter;
  readonly #doorstepLink: string;
  #doorstep: ChildProcess;
  readonly #told: Told[] = [];
  readonly #answers: Promise<void>[] = [];
  readonly #mends: Promise<void>[] = [];
  /** What is broken by whom: one trouble of a kind at a time. */
  readonly #broken = new Set<string>();
  readonly #wrong: string[] = [];
  #isStopping = false;
  /** When Doorstep was last killed. */
  #killedAtMs = -Infinity;
  #pressesAtStop: number | undefined;
  #number = 0;
  /** What was in the ledger when Doorstep was last started again: one that is killed at once never gets in. */
  #entriesAtStart: number | undefined;

  private constructor(
    place: Place,
    rest: RestClient,
    technician: LiveConnection,
    customer: LiveConnection,
    seen: Awaited<ReturnType<typeof startWorking>>,
    counter: PressCounter,
    doorstep: ChildProcess,
    doorstepLink: string,
  ) {
    this.#place = place;
    this.#rest = rest;
    this.#technician = technician;
    this.#customer = customer;
    this.#seen = seen;
    this.#counter = counter;
    this.#doorstep = doorstep;
    this.#doorstepLink = doorstepLink;
  }

  static async begin(place: Place): Promise<DisturbedSession> {
    const { rest, technician, customer, link } = await place.house.sessionUnderWay();
    const doorstepLink = `${place.line.url}/join/${link}`;
    const doorstep = place.house.startDoorstep(place.desktop, doorstepLink);
    const seen = await startWorking(technician, place.person);
    const counter = await PressCounter.at(place.desktop.display);
    return new DisturbedSession(place, rest, technician, customer, seen, counter, doorstep, doorstepLink);
  }

  async run(schedule: Schedule): Promise<Verdict> {
    for (const { step, pauseMs } of schedule) {
      this.#take(step);
      await wait(pauseMs);
    }
    await Promise.all(this.#mends);
    const mendedAtMs = performance.now();
    await this.#comeBack();
    const backAfterMs = performance.now() - mendedAtMs;
    await Promise.all(this.#answers);
    await this.#checkHands();
    await this.#checkLedger();
    await this.#leave();
    return { backAfterMs, wrong: this.#wrong };
  }

  #take(step: Step): void {
    const { house, records, line, desktop } = this.#place;
    switch (step.do) {
      case 'say':
        return this.#say(step.who);
      case 'aside':
        return this.#say('aside');
      case 'type':
        this.#open();
        for (const key of ['x', 'y']) for (const isDown of [true, false]) this.#seen.act({ act: 'key', key, isDown });
        return;
      case 'type long':
        this.#open();
        return this.#seen.act({ act: 'text', text: LONG });
      case 'hold Shift':
        this.#open();
        return this.#seen.act({ act: 'key', key: 'Shift', isDown: true });
      case 'take back':
        // Whatever becomes of it, the ledger says it; refused is what was over already.
        this.#answers.push(this.#takeBack().then(undefined, () => undefined));
        return;
      case 'Stop':
        this.#mends.push(this.#stop());
        return;
      case 'kill':
        if (step.what === 'service')
          return this.#break(
            'service',
            step.forMs,
            () => house.killService(),
            () => house.startService(),
          );
        return this.#break(
          'Doorstep',
          step.forMs,
          () => {
            this.#killedAtMs = performance.now();
            return endProcess(this.#doorstep, 'SIGKILL');
          },
          () => this.#startDoorstep(),
        );
      case 'freeze':
        if (step.what === 'records')
          return this.#break(
            'records',
            step.forMs,
            () => records.freeze(),
            () => records.thaw(),
          );
        {
          const signal: (name: 'SIGSTOP' | 'SIGCONT') => void = {
            service: house.signalService,
            Doorstep: (name: 'SIGSTOP' | 'SIGCONT') => void this.#doorstep.kill(name),
            desktop: (name: 'SIGSTOP' | 'SIGCONT') => void desktop.server.kill(name),
          }[step.what];
          return this.#break(
            step.what,
            step.forMs,
            () => signal('SIGSTOP'),
            () => signal('SIGCONT'),
          );
        }
      case 'cut':
        if (step.what === 'everybody')
          return this.#break(
            'line',
            step.forMs,
            () => line.cut(),
            () => line.mend(),
          );
        return house.cut(step.what === 'technician' ? this.#technician : this.#customer);
      case 'lose':
        return records.loseCommitAnswers();
      case 'refuse':
        return this.#break(
          'records',
          step.forMs,
          () => records.down(),
          () => records.up(),
        );
    }
  }

  #break(what: string, forMs: number, begin: () => unknown, end: () => unknown): void {
    if (this.#broken.has(what)) return;
    this.#broken.add(what);
    this.#mends.push(
      (async () => {
        await begin();
        await wait(forMs);
        await end();
        this.#broken.delete(what);
      })(),
    );
  }

  #say(by: Told['by']): void {
    const told: Told = { by, text: `${by} ${this.#number++}`, outcome: undefined };
    this.#told.push(told);
    const live = by === 'customer' ? this.#customer : this.#technician;
    const sent =
      by === 'aside'
        ? live.aside(told.text)
        : live.command({ type: 'sendChat', messageId: randomUUID(), text: told.text });
    this.#answers.push(
      sent.then(
        () => void (told.outcome = 'taken'),
        () => void (told.outcome = 'refused'),
      ),
    );
  }

  #open(): void {
    if (this.#seen.lease.state.name === 'closed') this.#seen.lease.open();
  }

  #takeBack(): Promise<void> {
    const { participantId } = this.#technician;
    return this.#customer.command({
      type: 'withdrawPermission',
      participantId,
      permission: 'control-input',
      why: 'enough',
    });
  }

  get #isHearing(): boolean {
    return !this.#broken.has('desktop') && !this.#broken.has('Doorstep');
  }

  async #stop(): Promise<void> {
    if (this.#isStopping) return;
    this.#isStopping = true;
    for (;;) {
      const pressedAtMs = await this.#pressStop();
      if (pressedAtMs === undefined) return;
      await wait(ON_ITS_WAY_MS);
      if (this.#killedAtMs < pressedAtMs) {
        this.#pressesAtStop = this.#counter.presses;
        return;
      }
      // A program that died under the press may have heard it or not. Whoever meant it presses again if the bar comes back;
      // it does not where nothing is allowed any longer.
    }
  }

  /** When Stop was pressed; undefined when there was nothing to stop. */
  async #pressStop(): Promise<number | undefined> {
    let pressedAtMs = 0;
    // Where nothing is allowed any longer, there is no bar and nothing to stop.
    const outcome = await until(
      'Stop to be pressed',
      async () => {
        if (!this.#isHearing) return undefined;
        pressedAtMs = performance.now();
        const isThere = await this.#place.person.pressStop().then(
          () => true,
          () => false,
        );
        if (isThere) return 'pressed';
        return this.#isAllowed('view-screen') ? undefined : 'nothing to stop';
      },
      BACK_MS,
    );
    return outcome === 'pressed' ? pressedAtMs : undefined;
  }

  #startDoorstep(): void {
    this.#entriesAtStart = this.#technician.entries.length;
    this.#doorstep = this.#place.house.startDoorstep(this.#place.desktop, this.#doorstepLink);
  }

  get #isEnded(): boolean {
    return this.#technician.state.phase.name === 'ended';
  }
  #isAllowed(permission: Permission): boolean {
    const { state, participantId } = this.#technician;
    return state.standings[participantId]?.[permission]?.name === 'allowed';
  }

  /** Everybody hears each other again, and sees what they may see. */
  async #comeBack(): Promise<void> {
    const [technician, customer] = [this.#technician, this.#customer];
    await until(
      'everybody to be on the line',
      () => technician.status === 'live' && customer.status === 'live',
      BACK_MS,
    );
    if (this.#pressesAtStop !== undefined) {
      await until('both to hear of Stop', () => this.#isEnded && customer.state.phase.name === 'ended', BACK_MS);
      return;
    }
    this.#say('technician');
    this.#say('customer');
    for (const told of this.#told.slice(-2))
      await until(
        `“${told.text}” to be with both`,
        () =>
          this.#isEnded ||
          told.outcome === 'refused' ||
          [technician, customer].every((live) => chats(live).includes(told.text)),
        BACK_MS,
      );
    const { holderId = '' } = technician.state;
    await until(
      'Doorstep to be back',
      () =>
        // It heard of Stop and died, and told it when it came back.
        this.#isEnded ||
        (technician.presence.some((row) => row.participantId === holderId && row.isConnected) &&
          (this.#entriesAtStart === undefined ||
            technician.entries
              .slice(this.#entriesAtStart)
              .some(({ event: e }) => e.type === 'programStarted' && e.participantId === holderId))),
      BACK_MS,
    );
    await until(
      'a picture that is vouched for',
      () => !this.#isAllowed('view-screen') || this.#seen.isFresh(),
      BACK_MS,
    );
  }

  /** Nothing is pressed that nobody may press; nothing stays pressed. */
  async #checkHands(): Promise<void> {
    if (this.#isAllowed('control-input') && !this.#isEnded) await this.#takeBack();
    const { person } = this.#place;
    await until('every key to be up', async () => (await person.keysDown()).length === 0, BACK_MS).catch(
      (error: Error) => this.#wrong.push(error.message),
    );
    await wait(ON_ITS_WAY_MS);
    const before = this.#counter.presses;
    this.#open();
    for (let i = 0; i < 5; i++) {
      this.#seen.act({ act: 'key', key: 'z', isDown: true });
      await wait(60);
    }
    const more = this.#counter.presses - before;
    if (more) this.#wrong.push(`${more} presses after control was taken back`);
    const afterStop = this.#pressesAtStop === undefined ? 0 : this.#counter.presses - this.#pressesAtStop;
    if (afterStop) this.#wrong.push(`${afterStop} presses after Stop`);
    const down = await person.keysDown();
    if (down.length) this.#wrong.push(`keys down at the end: ${down.join()}`);
  }

  /** What was taken stands once, in the order of who said it; what was refused, at most once; and the chain holds. */
  async #checkLedger(): Promise<void> {
    const [technician, customer] = [this.#technician, this.#customer];
    await until('both to know the same', () => technician.head.hash === customer.head.hash, BACK_MS).catch(
      (error: Error) => this.#wrong.push(error.message),
    );
    const kept = verifyRows((await this.#rest.ledger(technician.sessionId)).rows, [technician.head]);
    if (!kept.isWhole) this.#wrong.push(`the kept ledger is not whole: ${JSON.stringify(kept)}`);
    const stand = { chat: chats(technician), aside: technician.asides.map((a) => a.text) };
    for (const by of ['technician', 'customer', 'aside'] as const) {
      const here = (by === 'aside' ? stand.aside : stand.chat).filter((text) => text.startsWith(`${by} `));
      const refused = this.#told.filter((t) => t.by === by && t.outcome === 'refused').map((t) => t.text);
      const wanted = this.#told.filter((t) => t.by === by && (t.outcome !== 'refused' || here.includes(t.text)));
      if (here.join() !== wanted.map((t) => t.text).join())
        this.#wrong.push(
          `${by} said ${wanted.map((t) => t.text).join()}; the ledger says ${here.join()}; refused were ${refused.join()}`,
        );
    }
    if (chats(customer).join() !== stand.chat.join()) this.#wrong.push('the customer reads something else');
  }

  async #leave(): Promise<void> {
    if (!this.#isEnded)
      await this.#technician.command({ type: 'endSession', reason: 'technician', why: '' }).catch(() => undefined);
    await endProcess(this.#doorstep, 'SIGKILL');
    this.#seen.stop();
    this.#seen.lease.close();
    this.#technician.close();
    this.#customer.close();
    this.#counter.close();
  }
}

const wait = (forMs: number): Promise<void> => new Promise((resolve) => setTimeout(resolve, forMs));
const chats = (live: LiveConnection): string[] =>
  live.entries.flatMap((e) => (e.event.type === 'chatSent' && e.event.personal ? [e.event.personal.text] : []));
