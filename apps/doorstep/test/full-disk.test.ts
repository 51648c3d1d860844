import { FileTransfers, TechnicianCommandLine, TechnicianRunbook, type RunNow } from '@porch/client';
import { startDesktop } from '@porch/demo';
import { askAndAgree, House, markedProcesses, runbookInUse, until, type ActionToWrite } from '@porch/testkit';
import { execFileSync } from 'node:child_process';
import { mkdirSync, readdirSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, expect, it } from 'vitest';

/* Disks on which nothing has room any longer, really: small file systems of their own, filled to the last byte. */
let house: House;
const mounted: string[] = [];
const canMount = process.getuid?.() === 0;
beforeAll(async () => {
  house = await House.open({ hasTickets: true });
});
afterAll(async () => {
  await house.close();
});

function smallDisk(folder: string, kilobytes: number): void {
  mkdirSync(folder, { recursive: true });
  execFileSync('mount', ['-t', 'tmpfs', '-o', `size=${kilobytes}k`, 'tmpfs', folder]);
  mounted.push(folder);
}
function fill(folder: string): void {
  for (let size = 65_536, i = 0; size >= 1;)
    try {
      writeFileSync(join(folder, `full-${i++}`), Buffer.alloc(size));
    } catch (error) {
      if ((error as NodeJS.ErrnoException).code !== 'ENOSPC') throw error;
      size = Math.floor(size / 2);
    }
}

it.skipIf(!canMount)(
  'what a person decides counts and is told, nothing is half written, and everything else works on',
  async () => {
    const home = join(house.folder, 'home-full');
    const desktop = await startDesktop(house.processes, { name: 'a full disk', home, programs: 'none' });
    try {
      smallDisk(join(home, 'state'), 512);
      smallDisk(join(home, 'Documents'), 64);
      smallDisk(join(home, 'Downloads'), 64);
      const { technician, link, rest } = await house.sessionUnderWay();
      writeFileSync(join(home, 'Documents/board.conf'), 'colour = blue\n');
      // Whoever asks for help because their disk is full has it full before Doorstep starts.
      for (const folder of ['state', 'Documents', 'Downloads']) fill(join(home, folder));
      const { person } = await house.withDoorstep(link, { desktop });
      await until('Doorstep', () => technician.state.holderId);
      for (const permission of ['run-runbook', 'use-command-line', 'give-files'] as const)
        await askAndAgree(technician, person, [permission]);

      const runbook = new TechnicianRunbook(technician, rest);
      const inUse = await runbookInUse(house);
      const run = async (action: ActionToWrite): Promise<RunNow> => {
        const { id, title } = await inUse(action);
        let now: RunNow = { text: '', isCut: false };
        runbook.run(await runbook.look(id, { title }, {}), (next) => (now = next));
        return until('its end', () => (now.ended ? now : undefined));
      };
      // A file that has no room: the one that was there stays, whole, and nothing lies beside it.
      const before = readdirSync(join(home, 'Documents'));
      const put = { kind: 'file' as const, target: '~/Documents/board.conf', body: 'colour = red\n'.repeat(2_000) };
      expect((await run(put)).ended?.outcome).toBe('failed');
      expect(readFileSync(join(home, 'Documents/board.conf'), 'utf8')).toBe('colour = blue\n');
      expect(readdirSync(join(home, 'Documents'))).toEqual(before);
      // A script that meets the same, and says so.
      const script = { title: 'Writes', body: 'head -c 100000 /dev/zero > ~/Documents/more; echo "code $?"' };
      const wrote = await run(script);
      expect(wrote.text).toContain('No space left');
      expect(wrote.text).toContain('code 1');
      expect(wrote.ended?.outcome).toBe('done');
      // A command line, and what stood there.
      const line = new TechnicianCommandLine(technician);
      line.listeners.on('printed', (bytes) => line.took(bytes.length));
      await line.open({ lineId: line.newId(), folder: '', columns: 80, rows: 24 });
      line.keys('echo li""ne works\r');
      const said = () =>
        JSON.stringify(technician.entries.filter(({ event }) => event.type === 'command-line/printed'));
      await until('the ledger to have it', () => said().includes('line works'));
      // A file that is given has no room.
      const files = new FileTransfers(technician);
      const source = {
        name: 'notes.bin',
        sizeBytes: 200_000,
        read: (_offset: number, length: number) => Promise.resolve(new Uint8Array(length)),
      };
      const fileId = await files.offer(source, technician.state.holderId ?? '');
      await until('it to be refused', () => technician.state.slices.files[fileId]?.stage === 'refused');
      expect(readdirSync(join(home, 'Downloads')).filter((name) => !name.startsWith('full-'))).toEqual([]);
      // Nothing can be written down, and Stop counts at once all the same.
      await person.pressStop();
      await until('all of it to be gone', () => markedProcesses(house.folder).length === 0);
      await until('the end', () => technician.state.phase.name !== 'live');
      expect(technician.entries.some(({ event }) => event.type === 'sessionEnded')).toBe(true);
      runbook.close();
      line.close();
      await files.close();
    } finally {
      for (const folder of mounted.reverse()) execFileSync('umount', ['-l', folder]);
    }
  },
);
