import { FileTransfers, ReturnAsks, TechnicianRestart, TechnicianRights, TechnicianRunbook } from '@porch/client';
import type { Permission } from '@porch/core';
import { PersonAtDesk, whyNoComputers } from '@porch/demo';
import { actionRuns, askAndAgree, computerOf, House, runbookInUse, until } from '@porch/testkit';
import { createHash, randomBytes } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

/* A computer that goes down while something is under way: a file, a handover, an action with administrator rights. */
let house: House;
let inUse: Awaited<ReturnType<typeof runbookInUse>>;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
  inUse = await runbookInUse(house);
});
afterAll(() => house.close());

type Computer = Awaited<ReturnType<typeof computerOf>>;
async function working(desktop: Computer, ...permissions: Permission[]) {
  const s = await house.sessionUnderWay();
  const { person } = await house.withDoorstep(s.link, { desktop });
  await until('Doorstep', () => s.technician.state.holderId);
  const at = { person };
  for (const permission of [...permissions, 'restart-computer' as const])
    await askAndAgree(s.technician, person, [permission]);
  const restart = new TechnicianRestart(s.technician);
  new ReturnAsks(s.technician, (error) => {
    throw error instanceof Error ? error : new Error(String(error));
  });
  const slice = () => s.technician.state.slices['restart-and-return'];
  const standing = (id: string, permission: Permission) => s.technician.state.standings[id]?.[permission]?.name;
  /** Resolves with whoever sits there once it has started again, and Doorstep is back. */
  const returned = async (starts: number, returns: number) => {
    await desktop.computer.isUp(starts + 1);
    at.person = await PersonAtDesk.at(desktop.display);
    await until('the return', () => slice().returns === returns);
    return at.person;
  };
  /** As the technician wants it and the person allows it; resolves once it goes down. */
  const goDown = async () => {
    const outlook = await restart.look();
    const done = restart.restart(restart.wanted('restart', false), outlook);
    await at.person.press(/wants to restart this computer/, 'yes');
    await done;
  };
  return { ...s, at, standing, returned, goDown, me: s.technician.participantId };
}

describe.skipIf(whyNoComputers())('a computer that goes down', () => {
  it('in the middle of a file has no half of one, and goes on from where it was, also after a cut of power', async () => {
    const desktop = await computerOf(house);
    const { technician, at, me, standing, returned, goDown } = await working(desktop, 'give-files');
    const { computer } = desktop;
    const downloads = join(desktop.home, 'Downloads');
    const pieces = () =>
      existsSync(downloads) ? readdirSync(downloads).filter((name) => name.endsWith('.porch-piece')) : [];
    const pieceBytes = () => Math.max(0, ...pieces().map((name) => statSync(join(downloads, name)).size));
    const content = randomBytes(9_000_000);
    const transfers = new FileTransfers(technician);
    const moved: number[] = [];
    transfers.listeners.on('progress', ({ movedBytes }) => moved.push(movedBytes));
    const stage = (id: string) => technician.state.slices.files[id]?.stage;
    /** Offered and taken; from `holdsAt` on nothing is read before `letGo`. */
    const give = async (holdsAt: number) => {
      const held = { isReached: false, letGo: (): void => undefined };
      const isLetGo = new Promise<void>((resolve) => (held.letGo = resolve));
      let isOffered = false;
      const read = async (offset: number, length: number) => {
        if (isOffered && offset >= holdsAt) {
          held.isReached = true;
          await isLetGo;
        }
        return content.subarray(offset, offset + length);
      };
      const holder = technician.state.holderId ?? '';
      const id = await transfers.offer({ name: 'sailings.db', sizeBytes: content.length, read }, holder);
      isOffered = true;
      await at.person.answer(true, 1_100);
      return { id, held };
    };

    const first = await give(content.length / 3);
    await until('a third of it', () => first.held.isReached && pieceBytes() > content.length / 5);
    let { starts } = computer;
    await goDown();
    first.held.letGo();
    await returned(starts, 1);
    await until('the first try to be over', () => stage(first.id) !== 'moving');
    expect(existsSync(join(downloads, 'sailings.db')), 'half a file is none').toBe(false);
    const kept = pieceBytes();
    expect(kept).toBeGreaterThan(content.length / 5);

    await until('files to be allowed again', () => standing(me, 'give-files') === 'allowed');
    moved.length = 0;
    const second = await give((content.length * 2) / 3);
    await until('two thirds of it', () => second.held.isReached && pieceBytes() > content.length / 2);
    expect(moved[0], 'not from the beginning').toBeGreaterThanOrEqual(kept);
    ({ starts } = computer);
    await computer.cutPower();
    second.held.letGo();
    computer.switchOn();
    await returned(starts, 2);
    await until('the second try to be over', () => stage(second.id) !== 'moving');
    const left = pieceBytes();

    await until('files to be allowed again', () => standing(me, 'give-files') === 'allowed');
    moved.length = 0;
    const third = await give(content.length);
    await until('the file', () => stage(third.id) === 'arrived');
    expect(moved[0], 'not from the beginning').toBeGreaterThanOrEqual(left);
    const hash = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
    expect(hash(readFileSync(join(downloads, 'sailings.db')))).toBe(hash(content));
    expect(readdirSync(downloads)).toEqual(['sailings.db']);
    await transfers.close();
  });

  it('in the middle of a handover comes back to the colleague, who is asked for, and has nothing of the first', async () => {
    const desktop = await computerOf(house);
    const { technician, id, me, standing, returned, goDown, customer } = await working(desktop, 'view-screen');
    const handoverId = crypto.randomUUID();
    await technician.command({
      type: 'requestHandover',
      handoverId,
      toTechnicianId: 'rune',
      remark: 'My ferry leaves.',
    });
    const { starts } = desktop.computer;
    await goDown();
    // It is accepted while there is nobody who could be asked.
    const rest = await house.signedIn('Rune Takahashi');
    await rest.answerHandover(handoverId, 'accept');
    const rune = await house.technician(rest, id);
    await rune.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions: ['view-screen'] });
    const person = await returned(starts, 1);
    const { text } = await person.questionSaying(/Rune Takahashi/);
    expect(text).toMatch(/see your screen/);
    expect(standing(rune.participantId, 'view-screen')).not.toBe('allowed');
    await person.press(/Rune Takahashi/, 'yes');
    await until('it to be handed over', () => rune.state.technicianId === 'rune');
    await until('what was said', () => rune.state.standings[rune.participantId]?.['view-screen']?.name === 'allowed');
    const allowed = Object.entries(rune.state.standings[rune.participantId] ?? {}).filter(
      ([, { name }]) => name === 'allowed',
    );
    expect(allowed.map(([permission]) => permission)).toEqual(['view-screen']);
    expect(Object.values(rune.state.standings[me] ?? {}).filter(({ name }) => name === 'allowed')).toEqual([]);
    expect(customer.state.technicianId).toBe('rune');
  });

  it('in the middle of an action with administrator rights has neither afterwards, whoever took it down', async () => {
    const desktop = await computerOf(house);
    const { computer } = desktop;
    const { technician, rest, at, me, standing, returned, goDown } = await working(
      desktop,
      'run-runbook',
      'raise-rights',
    );
    const rights = new TechnicianRights(technician, rest);
    const runbook = new TechnicianRunbook(technician, rest);
    const { begin } = actionRuns(runbook, (action) => inUse({ rights: 'administrator', ...action }));
    const standings = () => Object.values(technician.state.slices['administrator-rights']).map((one) => one.standing);
    const raise = async () => {
      const raising = rights.raise(rights.wanted('look at the label printer'), 'password', { installed: undefined });
      await at.person.questionSaying(/Password of an administrator/);
      await at.person.type('tern-quay-gull-7');
      await at.person.press(/Password of an administrator/, 'yes');
      await raising;
      await until('the ledger', () => standings().includes('raised'));
    };
    // As it was asked for; pulled out of the wall; and by the action itself, which is how some of them end.
    const ways = {
      Asked: { body: 'echo begun; sleep 4163', goes: goDown },
      Pulled: {
        body: 'echo half > /etc/porch-half; echo begun; sleep 4163',
        goes: async () => {
          await computer.cutPower();
          computer.switchOn();
        },
      },
      Itself: { body: 'echo begun; systemctl reboot; sleep 4163', goes: () => Promise.resolve() },
    };
    for (const [i, [title, { body, goes }]] of Object.entries(ways).entries()) {
      await raise();
      const { starts } = computer;
      const action = await begin({ title, body });
      await action.says('begun');
      await goes();
      await returned(starts, i + 1);
      expect((await action.end()).outcome).not.toBe('done');
      await until('no rights', () => !standings().includes('raised'));
      expect(await computer.read('sh', '-c', 'pgrep -fc "[ ]root-part|sleep 416[3]" || true')).toBe('0\n');
      await until('actions to be allowed again', () => standing(me, 'run-runbook') === 'allowed');
      // Rights are raised with a password or a leave of then: they never come back by themselves.
      if (standing(me, 'raise-rights') !== 'allowed') await askAndAgree(technician, at.person, ['raise-rights']);
    }
    const runs = Object.values(technician.state.slices.runbook).map(({ title, outcome }) => [title, outcome]);
    expect(Object.fromEntries(runs)).toEqual({ Asked: 'broken-off', Pulled: 'broken-off', Itself: 'broken-off' });
    runbook.close();
  });
});
