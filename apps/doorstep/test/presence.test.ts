import { InputLease } from '@porch/client';
import { askAndAgree, House, lookAt, until } from '@porch/testkit';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Nobody there, something private, somebody else's computer: what the customer's side holds back by itself. */
let house: House;
/** Long enough to press something, short enough to wait for. */
const AWAY_SECONDS = 3;
beforeAll(async () => {
  house = await House.open({ env: { PORCH_AWAY_MINUTES: String(AWAY_SECONDS / 60) } });
});
afterAll(() => house.close());

async function working() {
  const session = await house.sessionUnderWay();
  const { technician, link } = session;
  const { person } = await house.withDoorstep(link);
  await until('Doorstep', () => technician.state.holderId);
  await askAndAgree(technician, person, ['view-screen']);
  await askAndAgree(technician, person, ['control-input']);
  const seen = lookAt(technician);
  const { lease } = seen;
  return { ...session, person, seen, lease };
}
const open = async (lease: InputLease) => {
  lease.open();
  await until('an answer', () => lease.state.name === 'open' || lease.state.name === 'closed');
  return lease.state.name;
};

it('holds control back when nobody has been there for a while, unless that was allowed', async () => {
  const { technician, person, lease, seen } = await working();
  expect(await open(lease)).toBe('open');
  await until('nobody to be there', () => technician.state.slices.presence.isAway);
  await until('the lease to end', () => lease.state.name === 'closed');
  expect(await open(lease)).toBe('closed');
  await person.click(300, 300);
  await until('somebody to be there', () => !technician.state.slices.presence.isAway);
  await askAndAgree(technician, person, ['work-alone']);
  expect(await open(lease)).toBe('open');
  await until('nobody to be there again', () => technician.state.slices.presence.isAway);
  expect(lease.state.name, 'it was allowed').toBe('open');
  seen.stop();
});

it('shows nothing and lets nobody press anything during a private moment, from the bar or from the page', async () => {
  const { technician, customer, person, lease, seen } = await working();
  await until('the picture', seen.isFresh);
  expect(await open(lease)).toBe('open');
  const bar = await until('the bar', () => person.bar());
  await person.click(bar.private.x, bar.private.y);
  await until('the moment', () => technician.state.slices.presence.privateAt.length === 1);
  await until('the lease to end', () => lease.state.name === 'closed');
  await until('the picture to be old', () => (seen.picture.standing.ageMs ?? 0) > 2_000);
  expect(await open(lease)).toBe('closed');
  await person.click(bar.private.x, bar.private.y);
  await until('the moment to be over', () => technician.state.slices.presence.privateAt.length === 0);
  await until('the picture again', seen.isFresh);
  await customer.command({ type: 'setPrivate', isOn: true, fact: undefined });
  await until('the moment', () => technician.state.slices.presence.privateAt.length === 1);
  expect(await open(lease)).toBe('closed');
  // Whoever sits at the computer says that it is over.
  await person.click(bar.private.x, bar.private.y);
  await until('the moment to be over', () => technician.state.slices.presence.privateAt.length === 0);
  await until('the picture again', seen.isFresh);
  seen.stop();
});

it('hides, takes control back and stops by keys, whatever program has the keyboard', async () => {
  const { technician, person, seen, lease } = await working();
  // Control, Alt and a letter, by the codes of this X server's keyboard.
  const codes = { s: 39, p: 33, t: 28 };
  const press = (letter: keyof typeof codes) => person.chord([37, 64, codes[letter]]);
  await press('p');
  await until('the moment', () => technician.state.slices.presence.privateAt.length === 1);
  await press('p');
  await until('the moment to be over', () => technician.state.slices.presence.privateAt.length === 0);
  expect(await open(lease)).toBe('open');
  await press('t');
  const standing = () => technician.state.standings[technician.participantId];
  await until('it to be taken back', () => standing()?.['control-input']?.name === 'takenBack');
  expect(standing()?.['view-screen']?.name).toBe('allowed');
  await person.tapKey(codes.s);
  expect(technician.state.phase.name, 'a letter alone is a letter').toBe('live');
  await press('s');
  await until('the end', () => technician.state.phase.name === 'ended');
  seen.stop();
});

it('leaves no way back into a session on a computer that others use', async () => {
  const { technician, customer, customerRest, id } = await house.sessionUnderWay();
  await customer.command({ type: 'introduceCustomer', name: 'Bettina Crole', address: '', computer: 'shared' });
  await customer.command({ type: 'endSession', reason: 'customer', why: 'done', fact: undefined });
  await until('the end', () => technician.state.phase.name === 'ended');
  expect((await customerRest.receipt()).customerName, 'it can still be read').toBe('Bettina Crole');
  const [left] = await house.query<{ n: number }>(
    `SELECT count(*)::int AS n FROM "door_pass" WHERE "session_id" = $1 AND "expires_at" > clock_timestamp() + interval '11 minutes'`,
    [id],
  );
  expect(left?.n).toBe(0);
});
