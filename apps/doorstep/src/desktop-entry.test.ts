import { mkdirSync, mkdtempSync, readFileSync, existsSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, it } from 'vitest';
import {
  isRegistered,
  linkOf,
  registerLinks,
  registerWaiting,
  unregisterLinks,
  unregisterWaiting,
} from './desktop-entry.ts';

const places = () => {
  const home = mkdtempSync(join(tmpdir(), 'doorstep-entry-'));
  return { dataHome: join(home, 'share'), configHome: join(home, 'config') };
};
const OTHERS = '[Default Applications]\ntext/html=firefox.desktop\n\n[Added Associations]\nimage/png=viewer.desktop\n';

it('makes links open Doorstep for one account, twice over the same, and leaves nothing behind', () => {
  const here = places();
  const file = registerLinks(here, ['/opt/porch here/doorstep', '100%"$HOME']);
  expect(readFileSync(file, 'utf8')).toContain('Exec="/opt/porch here/doorstep" "100%%\\"\\$HOME" open %u');
  expect(readFileSync(file, 'utf8')).toContain('MimeType=x-scheme-handler/zesty-porch;');
  for (const comment of ['Comment=Lets a', 'Comment[nb]=Lar en', 'Comment[de]=Lässt sich'])
    expect(readFileSync(file, 'utf8')).toContain(comment);
  const once = readFileSync(join(here.configHome, 'mimeapps.list'), 'utf8');
  registerLinks(here, ['doorstep']);
  expect(readFileSync(join(here.configHome, 'mimeapps.list'), 'utf8')).toBe(once);
  unregisterLinks(here);
  expect([existsSync(file), existsSync(join(here.configHome, 'mimeapps.list'))]).toEqual([false, false]);
  unregisterLinks(here);
});

it('keeps what others wrote', () => {
  const here = places();
  mkdirSync(here.configHome, { recursive: true });
  writeFileSync(join(here.configHome, 'mimeapps.list'), OTHERS);
  registerLinks(here, ['doorstep']);
  expect(readFileSync(join(here.configHome, 'mimeapps.list'), 'utf8')).toMatch(
    /^\[Default Applications\]\nx-scheme-handler\/zesty-porch=.*\ntext\/html=firefox\.desktop/,
  );
  unregisterLinks(here);
  expect(readFileSync(join(here.configHome, 'mimeapps.list'), 'utf8')).toBe(OTHERS);
});

it('takes the link that a browser hands over, escaped or not, and nothing else', () => {
  const link = 'https://help.marrowick.example/join/abc-DEF_1';
  for (const given of [`zesty-porch:${link}`, `zesty-porch:${encodeURIComponent(link)}`, link])
    expect(linkOf(given)).toBe(link);
  for (const wrong of [
    'zesty-porch:',
    'zesty-porch:file:///etc/passwd',
    'zesty-porch:https://x.example/join/a b',
    'zesty-porch:--code 1',
  ])
    expect(() => linkOf(wrong)).toThrow(/not a link of a session/);
});

it('waits from each sign-in on, with a way to end that in the menu, in the words of whoever sits there', () => {
  const here = places();
  registerWaiting(here, ['/opt/porch here/doorstep'], '/home/bettina/.local/state/zesty "porch"');
  const autostart = readFileSync(join(here.configHome, 'autostart', 'zesty-porch-waiting.desktop'), 'utf8');
  const menu = readFileSync(join(here.dataHome, 'applications', 'zesty-porch-standing.desktop'), 'utf8');
  expect(isRegistered(here)).toBe(true);
  expect(autostart).toContain(
    'Exec="/opt/porch here/doorstep" wait --state "/home/bettina/.local/state/zesty \\"porch\\""',
  );
  expect(menu).toContain('standing window');
  for (const line of [
    'Name=Who may connect to this computer later',
    'Name[nb]=Hvem kan koble seg til denne maskinen senere',
    'Name[no]=Hvem kan koble seg til denne maskinen senere',
    'Name[de]=Wer darf später auf diesen Computer zugreifen',
  ])
    expect(menu.split('\n')).toContain(line);
  // Desktop Entry Specification: one key a line, the group first, and none twice.
  for (const text of [autostart, menu]) {
    const [group, ...lines] = text.trim().split('\n');
    const keys = lines.map((line) => line.split('=')[0]);
    expect([group, new Set(keys).size]).toEqual(['[Desktop Entry]', keys.length]);
  }
  unregisterWaiting(here);
  expect(isRegistered(here)).toBe(false);
  unregisterWaiting(here);
});
