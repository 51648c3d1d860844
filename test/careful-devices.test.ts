import { TechnicianPrograms } from '@porch/client';
import { whyNoComputers } from '@porch/demo';
import {
  askAndAgree,
  cleanAtBothSizes,
  computerOf,
  failure,
  houseWithPages,
  setInForce,
  Themselves,
  until,
} from '@porch/testkit';
import { describe, expect, it } from 'vitest';

const missing = whyNoComputers();
const { house, pages } = await houseWithPages({ hasTickets: true });

/* On a ship's bridge somebody else of the desk has their say before anything is stopped. */
describe.skipIf(missing)(`careful devices${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('need a second person’s yes, or their hours, or are never touched: at the computer first, whoever asks', async () => {
    const bettina = await computerOf(house);
    const own = new Themselves(bettina);
    await own.services({ chart: 'Description=Chart' });
    const isActive = async () => (await own.areActive('chart'))[0];
    const refusal = (doing: Promise<unknown>) =>
      doing.then(
        () => 'done',
        (error: unknown) => (error as Error).message,
      );
    const CHART = 'person/chart.service';

    // MF-203 is about the bridge of a ship.
    const first = await house.sessionUnderWay('Pim Aldersey', 'MF-203');
    const { person } = await house.withDoorstep(first.link, { desktop: bettina });
    await until('Doorstep', () => first.technician.state.holderId);
    for (const permission of ['read-system-report', 'inspect-programs', 'change-programs'] as const)
      await askAndAgree(first.technician, person, [permission]);
    const programs = new TechnicianPrograms(first.technician);
    const { id } = first;
    const standing = (actId: string) => first.technician.state.slices['risky-acts'][actId]?.standing;

    // Without leave, with leave for something else, and with a leave that somebody refused.
    const stop = await programs.prepare('stop', CHART);
    expect(stop.isCareful).toBe(true);
    expect(await refusal(programs.act(stop))).toBe('a device with this label needs leave for it');
    const again = await programs.prepare('stop', CHART);
    const other = await programs.prepare('disable', CHART);
    await programs.askLeave({ ...again, act: 'disable' });
    const odalys = await house.signedIn('Odalys Brandt');
    const rune = await house.signedIn('Rune Takahashi');
    await until('the second person to see it', async () => (await rune.porch()).carefulActs.length === 1);
    expect((await first.rest.porch()).carefulActs, 'never their own').toEqual([]);
    expect(await failure(first.rest.giveSecondYes(id, again.actId, true))).toBe('SECOND_YES_OWN');
    const noor = await house.signedIn('Noor Castellane');
    expect(await failure(noor.giveSecondYes(id, again.actId, true)), 'a trainee').toBe('NOT_YOUR_ROLE');
    expect((await noor.porch()).carefulActs).toEqual([]);
    expect(await failure(rune.giveSecondYes(id, crypto.randomUUID(), true))).toBe('SECOND_YES_NOT_OPEN');
    await rune.giveSecondYes(id, again.actId, true);
    await until('the yes', () => standing(again.actId) === 'cleared');
    expect(await failure(rune.giveSecondYes(id, again.actId, false)), 'no afterwards').toBe('SECOND_YES_NOT_OPEN');
    expect(await refusal(programs.act(again)), 'it was a yes to something else').toBe(
      'a device with this label needs leave for it',
    );
    // What the second person read is what is done: another name is another act.
    const renamed = await programs.prepare('stop', CHART);
    await programs.askLeave({ ...renamed, name: 'gate-board' });
    await until('it to be asked', () => standing(renamed.actId) === 'waits');
    await rune.giveSecondYes(id, renamed.actId, true);
    await until('the yes', () => standing(renamed.actId) === 'cleared');
    expect(await refusal(programs.act(renamed))).toBe('a device with this label needs leave for it');
    await programs.askLeave(other);
    await until('it to be asked', () => standing(other.actId) === 'waits');
    await rune.giveSecondYes(id, other.actId, false);
    await until('the no', () => standing(other.actId) === 'refused');
    expect(await refusal(programs.act(other))).toBe('a device with this label needs leave for it');
    expect(await isActive()).toBe('active');

    // In the console of Pim, while Rune is at the porch.
    programs.close();
    first.technician.close();
    const pim = (await pages.signedIn(house)).page;
    const runes = (await pages.signedIn(house, 'Rune Takahashi')).page;
    await pim.goto(`${house.url}/console/session/${id}`);
    const allow = async (permission: string) => {
      await pim.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
      await until('the question', () => person.question());
      await person.answer(true);
      await pim.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
    };
    await pim.locator('[data-test=more]').click();
    for (const permission of ['read-system-report', 'inspect-programs', 'change-programs'])
      if ((await pim.locator(`[data-test=chip-${permission}][data-standing=allowed]`).count()) === 0)
        await allow(permission);
    await pim.locator('[data-test=more]').click();
    await pim.locator('[data-test=shelf-programs]').click();
    await pim.locator('[data-test=list-services]').click();
    await pim.locator('[data-test=find-program] input').fill('chart');
    await pim.locator('[data-test=program-rows] .rows [role=row]').first().click();
    await pim.locator('[data-test=act-stop]').click();
    await pim
      .locator('[data-test=leave]')
      .getByText('The label of this device is “bridge”', { exact: false })
      .waitFor();
    expect(await pim.locator('[data-test=do-it]').isDisabled()).toBe(true);
    await cleanAtBothSizes(pim, 'leave for a careful act');
    await pim.locator('[data-test=ask-leave]').click();
    await pim.locator('[data-test=leave]').getByText('Waiting for a second person’s yes.').waitFor();
    await runes.locator('[data-test=careful-second-yes]').getByText('stop the service chart').waitFor();
    await cleanAtBothSizes(runes, 'a second yes on the porch');
    await runes.locator('[data-test=second-yes]').click();
    await runes.locator('[data-test=careful-second-yes]').waitFor({ state: 'detached' });
    await pim.locator('[data-test=do-it]:not([disabled])').click();
    await pim.locator('[data-test=acted]').getByText('chart: done.').waitFor();
    expect(await isActive()).toBe('inactive');
    await own.start('chart');

    // Outside of its hours: refused, or with a reason that the lead hears of at once and looks at, also once the session is over.
    const noHours = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'][(new Date().getUTCDay() + 2) % 7] ?? 'Mon';
    const rule = (text: string) => setInForce(house, 'careful-labels', text);
    await rule(`bridge: ${noHours} 02:00-03:00`);
    const second = await house.sessionUnderWay('Pim Aldersey', 'MF-203');
    const { person: there } = await house.withDoorstep(second.link, { desktop: bettina });
    await until('Doorstep', () => second.technician.state.holderId);
    for (const permission of ['read-system-report', 'inspect-programs', 'change-programs'] as const)
      await askAndAgree(second.technician, there, [permission]);
    const later = new TechnicianPrograms(second.technician);
    const atNight = await later.prepare('stop', CHART);
    const asked = (reason?: string) => failure(later.askLeave(atNight, reason));
    expect(await asked('the chart is wrong')).toBe('OUTSIDE_HOURS');
    await rule(`bridge: ${noHours} 02:00-03:00 + override`);
    expect(await asked()).toBe('REASON_NEEDED');
    expect(await asked('   ')).toBe('REASON_NEEDED');
    expect(await asked('the chart is wrong, the ship leaves')).toBe('no failure');
    expect((await later.act(atNight)).outcome).toBe('done');
    expect(await isActive()).toBe('inactive');
    await own.start('chart');
    await second.technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    const seen = (await odalys.porch()).carefulActs;
    expect(seen).toMatchObject([
      { kind: 'override', act: 'programs/stop', name: 'chart', reason: 'the chart is wrong, the ship leaves' },
    ]);
    expect((await rune.porch()).carefulActs, 'no lead').toEqual([]);
    expect(await failure(rune.lookAtOverride(second.id, atNight.actId))).toBe('NOT_YOUR_ROLE');
    await odalys.lookAtOverride(second.id, atNight.actId);
    await until('it to be gone', async () => (await odalys.porch()).carefulActs.length === 0);

    // Never: the computer itself says no.
    await rule('bridge: never');
    const third = await house.sessionUnderWay('Pim Aldersey', 'MF-203');
    await until('the rule to be in force', async () => (await third.customerRest.door()).carefulLabels[0]?.isNever);
    const { person: last } = await house.withDoorstep(third.link, { desktop: bettina });
    await until('Doorstep', () => third.technician.state.holderId);
    for (const permission of ['read-system-report', 'inspect-programs', 'change-programs'] as const)
      await askAndAgree(third.technician, last, [permission]);
    const never = new TechnicianPrograms(third.technician);
    expect(await refusal(never.prepare('stop', CHART))).toBe('the desk never does this on a device with this label');
    expect(await isActive()).toBe('active');
    expect((await never.prepare('start', CHART)).isCareful, 'what starts takes nothing away').toBe(false);
    never.close();
    await third.technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
  });
});
