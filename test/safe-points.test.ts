import { atATerminal, cleanAtBothSizes, computerOf, houseWithPages, Themselves, until } from '@porch/testkit';
import { whyNoComputers } from '@porch/demo';
import { describe, expect, it } from 'vitest';

const missing = whyNoComputers();
const { house, pages } = await houseWithPages({ hasTickets: true });

describe.skipIf(missing)(`safe points${missing === undefined ? '' : ` (${missing})`}`, () => {
  it('are made, compared and gone back to at the customer’s computer, and stay there only with a yes', async () => {
    const bettina = await computerOf(house);
    const { computer, home } = bettina;
    const own = new Themselves(bettina);
    own.file('Documents/labels/barcode.conf', 'margin=4\n');
    own.file('Documents/labels/it’s "quoted"\n$(touch caught).conf', 'x');
    await own.services({ quayprint: 'Description=Quayprint' });
    // Looked at from outside, never at what we say of it.
    const hashes = () =>
      computer.read(
        'sh',
        '-c',
        `cd ${home}/Documents && find . -print0 | sort -z | xargs -0 stat -c '%n %a %F' && find . -type f -print0 | sort -z | xargs -0 sha256sum`,
      );
    const isActive = async () => (await own.areActive('quayprint'))[0];
    const ofOurs = () => computer.read('sh', '-c', `find ${home} -path '*safe-points*' | sort; true`);
    const before = await hashes();

    // At a terminal.
    const { porch, person } = await atATerminal(house, bettina, {}, 'MF-201');
    expect((await porch('safe-points')).code, 'before a yes').toBe(1);
    const agree = async (name: string) =>
      expect((await Promise.all([porch('ask', name), person.answer(true, 1_100)]))[0].code).toBe(0);
    await agree('safe');
    expect((await porch('safe-points')).out).toMatch(/no safe point yet/);
    expect((await porch('make-safe-point', 'x', '--file', '/etc/passwd')).err).toMatch(/outside the home folder/);
    expect((await porch('make-safe-point', 'x')).err).toMatch(/holds something/);
    const made = await porch(
      'make-safe-point',
      'before the labels',
      '--file',
      'Documents/labels',
      '--service',
      'quayprint',
      '--packages',
    );
    expect(made.out).toMatch(/before the labels.*2 files.*1 service.*packages.*goes with this session/);
    expect((await porch('compare-safe-point', 'before the labels')).out).toMatch(/Nothing is other/);
    const wrongFix = async () => {
      await own.run(
        'sh',
        '-c',
        `cd ${home}/Documents/labels && echo margin=99 > barcode.conf && rm it* && echo new > came.conf && mkdir more && chmod 700 . && systemctl --user stop quayprint`,
      );
      expect(await hashes()).not.toBe(before);
      expect(await isActive()).toBe('inactive');
    };
    await wrongFix();
    const compared = await porch('compare-safe-point', 'before the labels');
    expect(compared.out).toMatch(/File Documents\/labels\/barcode\.conf: changed/);
    expect(compared.out).toMatch(/File Documents\/labels\/came\.conf: new/);
    expect(compared.out).toMatch(/Service quayprint: changed \(running, by-hand → stopped, by-hand\)/);
    const back = await porch('go-back', 'before the labels');
    expect(back.out + back.err).toMatch(/6 things are what they were/);
    expect(await hashes()).toBe(before);
    expect(await isActive()).toBe('active');
    // Going back can be gone back from.
    expect((await porch('go-back', 'Before going back to before the labels')).code).toBe(0);
    expect(await isActive()).toBe('inactive');
    expect((await porch('go-back', 'before the labels')).code).toBe(0);
    expect(await hashes()).toBe(before);

    // It stays only with a yes of their own; nothing else does.
    expect(
      (await Promise.all([porch('keep-safe-point', 'before the labels'), person.answer(false, 1_100)]))[0].code,
    ).toBe(1);
    const [kept] = await Promise.all([
      porch('keep-safe-point', 'before the labels', '--days', '3'),
      person.answer(true, 1_100),
    ]);
    expect(kept.out + kept.err).toMatch(/stays until/);
    expect((await porch('drop-safe-point', 'nothing')).code).toBe(1);
    expect((await porch('end')).code).toBe(0);
    await until('what is not kept to be gone', async () => (await ofOurs()).match(/point\.json$/gm)?.length === 1);
    const told = (await porch('ledger')).out;
    expect(told).toMatch(/The safe point “before the labels” stays on the computer until/);
    expect(told).toMatch(/Pim Aldersey went back to the safe point “before the labels”/);

    // In a later session, in the console.
    await wrongFix();
    const now = await house.sessionUnderWay('Pim Aldersey', 'MF-201');
    const again = await house.withDoorstep(now.link, { desktop: bettina });
    await until('Doorstep', () => now.technician.state.holderId);
    now.technician.close();
    const pim = await pages.signedIn(house);
    const { page } = pim;
    await page.goto(`${house.url}/console/session/${now.id}`);
    const allow = async (permission: string) => {
      await page.locator(`[data-test=chip-${permission}] button:not([disabled])`).click();
      await until('the question', () => again.person.question());
      await again.person.answer(true);
      await page.locator(`[data-test=chip-${permission}][data-standing=allowed]`).waitFor();
    };
    await page.locator('[data-test=more]').click();
    for (const permission of ['make-safe-points', 'read-system-report', 'inspect-programs', 'change-programs'])
      await allow(permission);
    await page.locator('[data-test=more]').click();
    await page.locator('[data-test=shelf-safe-points]').click();
    const point = page.locator('[data-test=safe-point]', { hasText: 'before the labels' });
    await point.getByText('of an earlier session', { exact: false }).first().waitFor();
    await point.locator('[data-test=compare-point]').click();
    await page.locator('[data-test=point-said]').getByText('barcode.conf: changed', { exact: false }).waitFor();
    await cleanAtBothSizes(page, 'safe points');
    await point.locator('[data-test=go-back]').click();
    await cleanAtBothSizes(page, 'about to go back');
    await page.locator('[data-test=go-back-now]').click();
    await page.locator('[data-test=point-said]').getByText('things are what they were', { exact: false }).waitFor();
    expect(await hashes()).toBe(before);
    expect(await isActive()).toBe('active');

    // Before a service is changed, one is made by itself.
    await page.locator('[data-test=shelf-programs]').click();
    await page.locator('[data-test=list-services]').click();
    await page.locator('[data-test=find-program] input').fill('quayprint');
    await page.locator('[data-test=program-rows] .rows [role=row]').first().click();
    await page.locator('[data-test=act-stop]').click();
    await page.locator('[data-test=sure]').getByText('A safe point is made first.').waitFor();
    await page.locator('[data-test=do-it]').click();
    await page.locator('[data-test=acted]').getByText('quayprint: done.').waitFor();
    expect(await isActive()).toBe('inactive');
    await page.locator('[data-test=shelf-safe-points]').click();
    const own2 = page.locator('[data-test=safe-point]', { hasText: 'Before quayprint was stopped' });
    await own2.locator('[data-test=go-back]').click();
    await page.locator('[data-test=go-back-now]').click();
    await page.locator('[data-test=point-said]').getByText('One thing is what it was.').waitFor();
    expect(await isActive()).toBe('active');
    for (let left = await page.locator('[data-test=drop-point]').count(); left > 0; left--) {
      await page.locator('[data-test=drop-point]:not([disabled])').first().click();
      await until('it to be gone', async () => (await page.locator('[data-test=drop-point]').count()) < left);
    }
    expect(await ofOurs()).not.toMatch(/point\.json/);
    expect(pim.problems).toEqual([]);
  });
});
