import { ReturnAsks, TechnicianRestart, TechnicianReports } from '@porch/client';
import { isOver, type Permission } from '@porch/core';
import { PersonAtDesk, whyNoComputers } from '@porch/demo';
import { askAndAgree, computerOf, House, until } from '@porch/testkit';
import { existsSync, readdirSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/*
 * Restarts and cuts of power against everything else, in an order that a seed chooses: whatever happened, both sides' ledgers
 * say the same in the end, what may be done is what was agreed at most, and nothing of ours stays on the computer.
 */
const SEEDS = process.env['PORCH_TEST_LONG'] ? 300 : 20;
const STEPS = 2;
/** Each computer has one of its own: two sessions of one technician at once are begun as one. */
const TECHNICIANS = ['Pim Aldersey', 'Rune Takahashi'];
const A_SEED_MS = 60_000;
const LINGERS = '/var/lib/systemd/linger';
const OURS = ['state', '.config/autostart', '.config/systemd', '.local/share/zesty-porch'];

let house: House;
beforeAll(async () => (house = await House.open()));
afterAll(() => house.close());

type Computer = Awaited<ReturnType<typeof computerOf>>;
/** Mulberry32: the same for the same seed. */
function numbersOf(seed: number): (below: number) => number {
  let state = seed;
  return (below) => {
    state = (state + 0x6d2b79f5) | 0;
    let t = Math.imul(state ^ (state >>> 15), 1 | state);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) % below;
  };
}
/** What lies in a folder; what goes while it is read is there still. */
function namesIn(folder: string): string[] {
  try {
    return existsSync(folder) ? readdirSync(folder, { recursive: true }).map(String) : [];
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
    return [`going from ${folder}`];
  }
}
const listing = ({ home, computer: { root } }: Computer): string[] => [
  ...OURS.flatMap((folder) => namesIn(join(home, folder))),
  ...namesIn(`${root}/etc/lightdm/lightdm.conf.d`),
  ...namesIn(`${root}${LINGERS}`),
];

class Schedule {
  readonly #desktop: Computer;
  readonly #name: string;
  readonly #below: (below: number) => number;
  readonly did: string[] = [];
  #s!: Awaited<ReturnType<House['sessionUnderWay']>>;
  #person!: PersonAtDesk;
  #restart!: TechnicianRestart;
  #returning!: ReturnAsks;
  /** What it was agreed that may come back. */
  #most: readonly string[] = [];

  constructor(desktop: Computer, technician: string, seed: number) {
    this.#desktop = desktop;
    this.#name = technician;
    this.#below = numbersOf(seed);
  }

  get #technician() {
    return this.#s.technician;
  }
  get #slice() {
    return this.#technician.state.slices['restart-and-return'];
  }
  get #may(): string[] {
    return Object.entries(this.#technician.state.standings[this.#technician.participantId] ?? {})
      .filter(([, { name }]) => name === 'allowed')
      .map(([permission]) => permission);
  }

  async run(): Promise<void> {
    const { computer } = this.#desktop;
    if (!computer.isOn) {
      computer.switchOn();
      await computer.isUp(computer.starts + 1);
    }
    this.#s = await house.sessionUnderWay(this.#name);
    this.#person = (await house.withDoorstep(this.#s.link, { desktop: this.#desktop })).person;
    await until('Doorstep', () => this.#technician.state.holderId);
    this.#returning = new ReturnAsks(this.#technician, () => undefined);
    this.#restart = new TechnicianRestart(this.#technician);
    await askAndAgree(this.#technician, this.#person, ['restart-computer']);
    const more: Permission = this.#below(2) ? 'view-screen' : 'read-system-report';
    await askAndAgree(this.#technician, this.#person, [more]);
    await this.#goDown();
    for (let i = 0; i < STEPS && !isOver(this.#technician.state); i++) await this.#step();
    await this.#end();
  }

  async #step(): Promise<void> {
    const steps = [
      () => this.#goDown(),
      () => this.#cut(),
      () => this.#takeBack(),
      () => this.#meanwhile(),
      () => this.#stop(),
    ];
    await steps[this.#below(steps.length)]?.();
  }

  /** With the person's yes; or, at times, the power goes while it goes down. */
  async #goDown(): Promise<void> {
    if (!this.#may.includes('restart-computer')) return;
    const { computer } = this.#desktop;
    const { starts } = computer;
    const { returns } = this.#slice;
    const isCut = this.#below(4) === 0;
    this.did.push(isCut ? 'cut while going down' : 'restart');
    const going = this.#restart.restart(this.#restart.wanted('restart', false), await this.#restart.look());
    await this.#person.press(/wants to restart this computer/, 'yes');
    await going;
    this.#most = this.#slice.agreed?.permissions ?? [];
    if (isCut) {
      await computer.cutPower();
      // It may have started anew just before.
      if (!computer.isOn) computer.switchOn();
    }
    await this.#back(starts, returns);
  }
  async #cut(): Promise<void> {
    this.did.push('cut');
    const { computer } = this.#desktop;
    const [{ starts }, { returns }] = [computer, this.#slice];
    await computer.cutPower();
    computer.switchOn();
    await this.#back(starts, returns);
  }
  async #back(starts: number, returns: number): Promise<void> {
    await this.#desktop.computer.isUp(starts + 1);
    this.#person.close();
    this.#person = await PersonAtDesk.at(this.#desktop.display);
    await until('the return', () => this.#slice.returns > returns);
    await until('what was agreed', () => this.#slice.toAsk.every((one) => this.#may.includes(one)));
    expect([...this.#may].sort(), this.did.join(', ')).toEqual([...this.#most].sort());
  }
  /** From the desk: it does not come back. */
  async #takeBack(): Promise<void> {
    const permission = this.#may[this.#below(Math.max(1, this.#may.length))] as Permission | undefined;
    if (!permission) return;
    this.did.push(`gave back ${permission}`);
    const { participantId } = this.#technician;
    await this.#technician.command({ type: 'withdrawPermission', participantId, permission, why: 'given back' });
    await until('less is agreed', () => !this.#slice.agreed?.permissions.includes(permission));
    this.#most = this.#most.filter((one) => one !== permission);
  }
  /** Something is under way when the power goes. */
  async #meanwhile(): Promise<void> {
    if (!this.#may.includes('read-system-report')) return;
    this.did.push('a report, cut');
    const reports = new TechnicianReports(this.#technician);
    const report = reports.read(() => undefined).catch(() => undefined);
    await this.#cut();
    reports.close();
    await report;
  }
  async #stop(): Promise<void> {
    // Who may see nothing has no bar there.
    if (!this.#may.includes('view-screen')) return;
    this.did.push('Stop');
    await until('the bar', () => this.#person.bar());
    await this.#person.pressStop();
    await until('the end', () => isOver(this.#technician.state));
  }

  async #end(): Promise<void> {
    const end = { type: 'endSession', reason: 'technician', why: 'done', fact: undefined } as const;
    if (!isOver(this.#technician.state)) await this.#technician.command(end);
    const { customer } = this.#s;
    await until('the same ledger', () => customer.entries.at(-1)?.seq === this.#technician.entries.at(-1)?.seq);
    expect(customer.head, this.did.join(', ')).toEqual(this.#technician.head);
    this.#restart.close();
    this.#returning.close();
    this.#person.close();
    this.#technician.close();
    customer.close();
  }
}

describe.skipIf(whyNoComputers())('restarts against everything else', () => {
  it(
    `leave both sides with the same ledger and the computer with nothing of ours, ${SEEDS} times`,
    async () => {
      const desktops = await Promise.all((['bettina', 'samir'] as const).map((login) => computerOf(house, login)));
      const before = desktops.map((desktop) => listing(desktop));
      await Promise.all(
        desktops.map(async (desktop, at) => {
          for (let seed = at; seed < SEEDS; seed += desktops.length) {
            const schedule = new Schedule(desktop, TECHNICIANS[at] ?? '', 20_261_201 + seed);
            await schedule.run();
            await until(`nothing of ours after ${schedule.did.join(', ')}`, () =>
              listing(desktop).every((name) => before[at]?.includes(name)),
            );
          }
        }),
      );
    },
    SEEDS * A_SEED_MS,
  );
});
