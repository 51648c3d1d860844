import { MAX_CHANGES, reportParts } from '@porch/core';
import { runs } from '@porch/testkit/seeds';
import fc from 'fast-check';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it } from 'vitest';
import { cardsOf, memoryOf, readBattery, startedAtMs } from './computer-parts.ts';
import { gatewayIn, nameServersIn } from './network-part.ts';
import { changesIn, installedIn, updatesIn } from './programs-part.ts';
import { processOf } from './process-table.ts';
import { busiest, servicesIn } from './running-parts.ts';
import { encryptionHere, firewallIn } from './security-part.ts';
import { mountedIn } from './storage-part.ts';

const folder = mkdtempSync(join(tmpdir(), 'porch-system-'));
afterAll(() => rmSync(folder, { recursive: true, force: true }));
const put = (path: string, files: Readonly<Record<string, string>>) => {
  mkdirSync(join(folder, path), { recursive: true });
  for (const [name, text] of Object.entries(files)) writeFileSync(join(folder, path, name), text);
};

describe('what a computer says of its packages', () => {
  it('is told from dpkg’s own log: what came, what went, from which version to which, the last first', () => {
    const log = [
      '2026-11-09 08:00:00 startup archives unpack',
      '2026-11-09 08:00:01 install quayprint-driver:all <none> 3.8',
      '2026-11-09 08:00:02 status installed quayprint-driver:all 3.8',
      '2026-11-23 09:12:00 upgrade quayprint-driver:all 3.8 4.1',
      '2026-11-23 09:13:00 remove old-scanner:amd64 1.0-2 <none>',
      '2026-11-23 09:13:01 purge old-scanner:amd64 <none> <none>',
    ].join('\n');
    expect(changesIn(log)).toEqual([
      { name: 'old-scanner', from: '1.0-2', atMs: new Date('2026-11-23T09:13:00').getTime() },
      { name: 'quayprint-driver', from: '3.8', to: '4.1', atMs: new Date('2026-11-23T09:12:00').getTime() },
      { name: 'quayprint-driver', to: '3.8', atMs: new Date('2026-11-09T08:00:01').getTime() },
    ]);
    expect(installedIn('Status: install ok installed\n\nStatus: deinstall ok config-files\n')).toBe(1);
    expect(
      updatesIn(
        'Inst a [1] (2 Debian:12/stable [amd64])\nInst b [1] (2 Debian-Security:12/stable-security [all])\nConf b',
      ),
    ).toEqual({ pending: 2, security: 1 });
  });

  it('is bounded, whatever is in the log', () => {
    const many = Array.from({ length: 5_000 }, (_, i) => `2026-11-23 09:12:00 upgrade p${i}:all 1 2`).join('\n');
    expect(changesIn(many)).toHaveLength(MAX_CHANGES);
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 300 }), (junk) => {
        const changes = changesIn(
          `2026-13-99 99:99:99 upgrade x 1 2\n${junk}\n2026-11-23 09:12:00 upgrade ${'n'.repeat(500)} 1 2`,
        );
        expect(reportParts.programs.safeParse({ count: 0, changes }).success).toBe(true);
      }),
      runs(),
    );
  });
});

describe('what a computer says of itself', () => {
  it('is when it started, how much memory it has, and its battery', () => {
    const first = `1 (systemd (a) b) S ${'0 '.repeat(18)}2500 0`;
    expect(startedAtMs('cpu 1\nbtime 1000\n', first)).toBe(1_025_000);
    expect(startedAtMs('', first)).toBeUndefined();
    expect(
      memoryOf('MemTotal:  2000 kB\nMemAvailable: 500 kB\nSwapTotal: 0 kB\nSwapFree: 0 kB\n', '4.00 1 1', 2),
    ).toEqual({
      ...{ totalBytes: 2_048_000, availableBytes: 512_000, swapTotalBytes: 0, swapFreeBytes: 0, loadPerCore: 2 },
    });
    expect(readBattery(join(folder, 'nothing'))).toEqual({ isThere: false });
    put('power/AC', { type: 'Mains\n' });
    put('power/BAT0', {
      type: 'Battery\n',
      capacity: '72\n',
      status: 'Discharging\n',
      energy_full: '30',
      energy_full_design: '60',
    });
    expect(readBattery(join(folder, 'power'))).toEqual({
      isThere: true,
      percent: 72,
      isCharging: false,
      healthPercent: 50,
    });
    expect(cardsOf(' 0 [PCH            ]: HDA-Intel - HDA Intel PCH\n      at 0xf\n')).toEqual([
      'HDA-Intel - HDA Intel PCH',
    ]);
  });

  it('is its volumes, each once, by the paths that they have', () => {
    const mounts = [
      '/dev/sda1 / ext4 rw,relatime 0 0',
      'proc /proc proc rw 0 0',
      '/dev/sda1 /home/x ext4 rw 0 0',
      '/dev/sdb1 /media/Car\\040deck vfat ro,nosuid 0 0',
      'server:/far /far nfs rw 0 0',
    ].join('\n');
    expect(mountedIn(mounts)).toEqual([
      { device: '/dev/sda1', at: '/', kind: 'ext4', isReadOnly: false },
      { device: '/dev/sdb1', at: '/media/Car deck', kind: 'vfat', isReadOnly: true },
    ]);
  });

  it('is its way out, who resolves names, and what guards it', () => {
    const route = 'Iface\tDestination\tGateway\neth0\t0000A8C0\t00000000\neth0\t00000000\t0101A8C0\t3';
    expect(gatewayIn(route)).toBe('192.168.1.1');
    expect(gatewayIn('')).toBeUndefined();
    expect(nameServersIn('# nameserver 9\nnameserver 192.0.2.1\nsearch x\n')).toEqual(['192.0.2.1']);
    expect(firewallIn('inactive\nactive\ninactive\n')).toBe('on');
    expect(firewallIn('inactive\ninactive\ninactive\n')).toBe('off');
    expect(firewallIn('unknown\ninactive\n')).toBe('unknown');
    put('block/sda', {});
    expect(encryptionHere(join(folder, 'block'))).toBe('off');
    put('block/dm-0/dm', { uuid: 'CRYPT-LUKS2-x' });
    expect(encryptionHere(join(folder, 'block'))).toBe('on');
    expect(encryptionHere(join(folder, 'nothing'))).toBe('unknown');
  });

  it('is what runs, whatever processes call themselves', () => {
    const stat = (name: string, user: number, pages: number) =>
      `7 (${name}) S 1 1 1 0 -1 0 0 0 0 0 ${user} 0 0 0 20 0 1 0 100 1 ${pages} 0`;
    expect(processOf(stat('a) S (b', 40, 2))).toMatchObject({
      name: 'a) S (b',
      ticks: 40,
      startedTicks: 100,
      memoryBytes: 8_192,
    });
    const top = busiest(
      [stat('idle', 0, 10), stat('busy', 900, 1), stat('kernel', 5_000, 0)].flatMap((one) => processOf(one) ?? []),
      1_100,
    );
    expect(top.map(({ name }) => name)).toEqual(['busy', 'idle']);
    expect(top[0]?.cpuPercent).toBe(90);
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 200 }), (junk) => {
        const found = [processOf(junk), processOf(stat(junk, 1, 1))].flatMap((one) => (one ? [one] : []));
        expect(reportParts.processes.safeParse({ count: 1, top: busiest(found, 1_000) }).success).toBe(true);
      }),
      runs(),
    );
    expect(
      servicesIn(
        JSON.stringify([
          { unit: 'a.service', active: 'failed', sub: 'failed' },
          { unit: 'b.service', active: 'active', sub: 'running' },
        ]),
      ),
    ).toEqual({ running: 1, failed: ['a'] });
  });
});
