import { FileTransfers, TechnicianCommandLine, TechnicianRunbook, type RunNow } from '@porch/client';
import { askAndAgree, House, markedProcesses, runbookInUse, until } from '@porch/testkit';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Stop while everything is under way at once, looked at from outside. */
let house: House;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(() => house.close());

const marked = () => markedProcesses(house.folder);

it('ends a script, a command line and a file on its way in one press, with all that they started', async () => {
  const { technician, link, rest } = await house.sessionUnderWay();
  const { desktop, person } = await house.withDoorstep(link);
  await until('Doorstep', () => technician.state.holderId);
  for (const permission of ['run-runbook', 'use-command-line', 'fetch-files'] as const)
    await askAndAgree(technician, person, [permission]);

  const hides = 'trap "" HUP TERM; (setsid sh -c "while :; do sleep 1; done" &)';
  const runbook = new TechnicianRunbook(technician, rest);
  const inUse = await runbookInUse(house);
  const { id, title } = await inUse({ title: 'Goes on', body: `${hides}; echo begun; sleep 600` });
  let now: RunNow = { text: '', isCut: false };
  runbook.run(await runbook.look(id, { title }, {}), (next) => (now = next));
  await until('the script', () => now.text.includes('begun'));

  const line = new TechnicianCommandLine(technician);
  let [printed, isOver] = ['', false];
  line.listeners.on('printed', (bytes) => {
    printed = (printed + Buffer.from(bytes).toString('latin1')).slice(-500);
    line.took(bytes.length);
  });
  line.listeners.on('over', () => (isOver = true));
  await line.open({ lineId: line.newId(), folder: '', columns: 80, rows: 24 });
  line.keys(`${hides}; yes\r`);
  await until('the command line', () => printed.includes('y\r\ny\r\n'));

  writeFileSync(join(desktop.home, 'large.bin'), Buffer.alloc(120_000_000, 7));
  const files = new FileTransfers(technician);
  const requestId = crypto.randomUUID();
  const begun = new Promise<string>((resolve) =>
    files.listeners.on('message', ({ message }) => {
      if (message.type === 'fetchStarted' && message.requestId === requestId) resolve(message.fileId);
    }),
  );
  const seat = technician.state.participants[technician.state.holderId ?? '']?.seat ?? 0;
  files.tell(seat, { type: 'fetch', requestId, path: 'large.bin' });
  await person.answer(true, 1_100);
  const fileId = await begun;
  await until('the offer', () => technician.state.slices.files[fileId]);
  let [taken, isWhole] = [0, false];
  await files.accept(fileId, {
    write: (bytes) => {
      taken += bytes.length;
      return Promise.resolve();
    },
    finish: () => {
      isWhole = true;
      return Promise.resolve();
    },
    discard: () => Promise.resolve(),
  });
  await until('the file on its way', () => taken > 1_000_000);
  expect(marked().length).toBeGreaterThan(4);

  await person.pressStop();
  await until('all of it to be gone', () => marked().length === 0);
  await until('the end', () => technician.state.phase.name !== 'live');
  await until('the command line to be over', () => isOver);
  expect(isWhole, 'the file went on').toBe(false);
  expect(technician.state.slices.files[fileId]?.stage).not.toBe('arrived');
  runbook.close();
  line.close();
  await files.close();
});
