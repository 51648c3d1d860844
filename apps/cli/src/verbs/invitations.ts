import { carriedWays, languageOfTag, type InvitationWay } from '@porch/core';
import { writeFileSync } from 'node:fs';
import { resolve } from 'node:path';
import { CliError, exitCodes } from '../exit-codes.ts';
import { readCredentials } from '../home.ts';
import { fetchBytes } from '../http-exchange.ts';
import { printLine, printList } from '../print.ts';
import { desk, results, wrong } from '../words.ts';
import { type CommonOptions, findSession, rest, show } from './common.ts';

/** The package is CommonJS: bundled, all of it is the default export. Loaded when a picture is drawn, and not before. */
async function loadQr(): Promise<typeof import('qrcode')> {
  const loaded = await import('qrcode');
  return (loaded as { default?: typeof import('qrcode') }).default ?? loaded;
}

const wayOf: Readonly<Record<string, InvitationWay>> = {
  link: 'link',
  ticket: 'ticket-comment',
  mail: 'mail',
  text: 'text-message',
  qr: 'qr',
  calendar: 'calendar',
  file: 'join-file',
};

const fileOf: Partial<Record<InvitationWay, { file: 'qr.png' | 'calendar' | 'join-file'; name: string }>> = {
  qr: { file: 'qr.png', name: 'help.png' },
  calendar: { file: 'calendar', name: 'session.ics' },
  'join-file': { file: 'join-file', name: 'help.html' },
};

export async function invite(
  wayName: string,
  address: string | undefined,
  options: CommonOptions & {
    language: string;
    minutes?: string;
    uses?: string;
    remark: string;
    preview?: boolean;
    output?: string;
  },
): Promise<void> {
  const id = await findSession(options.session);
  const way = wayOf[wayName] ?? 'link';
  const count = (text: string, what: string) => {
    const n = Number(text);
    if (!Number.isInteger(n) || n < 1) throw new CliError(wrong.noWholeNumber({ what }), exitCodes.wrongCall);
    return n;
  };
  const body = {
    way,
    language: languageOfTag(options.language),
    remark: options.remark,
    ...(address ? { address } : {}),
    ...(options.minutes ? { minutes: count(options.minutes, '--minutes') } : {}),
    ...(options.uses ? { uses: count(options.uses, '--uses') } : {}),
  };
  const client = rest();
  if (options.preview) {
    const message = await client.previewInvitation(id, body);
    show(message, options, () => {
      if (message.subject) printLine(`${message.subject}\n`);
      printLine(message.text);
    });
    return;
  }
  const invited = await client.invite(id, body);
  const carried = fileOf[way];
  let file: string | undefined;
  if (carried && (options.output ?? way !== 'qr')) {
    const { url, token } = readCredentials();
    const bytes = await fetchBytes(url + client.invitationFilePath(id, invited.invitation.id, carried.file), token);
    file = resolve(options.output ?? carried.name);
    writeFileSync(file, bytes);
  }
  const drawn =
    way === 'qr' && !options.output && !options.json
      ? await (await loadQr()).toString(invited.link, { type: 'utf8' })
      : '';
  show({ ...invited, ...(file ? { file } : {}) }, options, () => {
    if (drawn) printLine(drawn);
    const { address } = invited.invitation;
    if (file) printLine(results.savedTo({ file }));
    else if (!carriedWays.includes(way)) printLine(results.link({ link: invited.link }));
    else printLine(address ? results.onItsWayTo({ address }) : results.onItsWay);
  });
}

export async function invitations(options: CommonOptions): Promise<void> {
  const found = await rest().invitations(await findSession(options.session));
  printList(
    { items: found },
    options,
    [
      ['INVITATION', (i) => i.id.slice(0, 8)],
      ['WAY', (i) => i.way],
      ['STATE', (i) => desk.inviting.delivery[i.delivery]],
      ['USES', (i) => `${i.uses}${i.usesAllowed ? `/${i.usesAllowed}` : ''}`],
      ['TO', (i) => i.address ?? ''],
      ['WHY', (i) => i.why ?? ''],
    ],
    results.nobodyInvited,
  );
}

export async function uninvite(given: string, options: CommonOptions): Promise<void> {
  const id = await findSession(options.session);
  const found = (await rest().invitations(id)).find((i) => i.id.startsWith(given.toLowerCase()));
  if (!found) throw new CliError(wrong.noInvitation({ id: given }), exitCodes.noSession);
  await rest().withdrawInvitation(id, found.id);
  show({ withdrawn: found.id }, options, () => printLine(results.invitationWithdrawn));
}
