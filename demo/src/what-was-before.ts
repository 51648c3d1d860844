import { fetchExchange, RestClient } from '@porch/client';
import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { liveLine } from './live-line.ts';
import { emailOf, PASSWORD } from './marrowick.ts';
import { exchangeWithCookies } from './scripted-customer.ts';

/** What the desk of Marrowick Ferries knew and did before today: its knowledge notes, its runbook, and a session of Rune's. Once. */
export async function playWhatWasBefore(serviceUrl: string, demoFolder: string): Promise<void> {
  const [rune, odalys] = await Promise.all(
    ['Rune Takahashi', 'Odalys Brandt'].map((name) => signedIn(serviceUrl, name)),
  );
  if (!rune || !odalys) return;
  for (const { result, id } of await rune.importKnowledgeNotes(filesIn(join(demoFolder, 'knowledge'), '.md')))
    if (result === 'drafted' && id) await odalys.reviewKnowledgeNote(id);
  const { items: actions } = await rune.importPack(filesIn(join(demoFolder, 'runbook'), '.action'), 'desk');
  for (const { result, id } of actions) {
    if (result !== 'drafted' || !id) continue;
    await odalys.reviewRunbookAction(id);
    await odalys.approveRunbookAction(id);
  }
  const { items } = await rune.findSessions({ ticket: 'MF-231', limit: 1 });
  if (!items.length) await helpBettinaBefore(rune, serviceUrl);
  await Promise.all([rune.signOut(), odalys.signOut()]);
}

const filesIn = (folder: string, ending: string) =>
  readdirSync(folder)
    .filter((name) => name.endsWith(ending))
    .map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }));

async function signedIn(serviceUrl: string, name: string): Promise<RestClient> {
  const rest = new RestClient(fetchExchange(serviceUrl));
  rest.token = (await rest.signIn(emailOf(name), PASSWORD, 'token')).token;
  return rest;
}

/** A chat on the telephone, as it happens when the picture is not needed. */
async function helpBettinaBefore(rune: RestClient, serviceUrl: string): Promise<void> {
  const { session, link } = await rune.start({ ticketRef: 'MF-231' });
  const page = new RestClient(exchangeWithCookies(serviceUrl));
  await page.join({ link: link.split('/').at(-1) ?? '', as: 'page' });
  const technician = liveLine(() => rune.livePass(session.id));
  const customer = liveLine(() => page.doorLive());
  try {
    await Promise.all([technician.ready(), customer.ready()]);
    const door = await page.door();
    await customer.command({
      type: 'introduceCustomer',
      name: 'Bettina Crole',
      address: 'bettina.crole@marrowick.example',
    });
    await customer.command({ type: 'answerCall', answer: 'i-called' });
    await customer.command({ type: 'acceptSession', noticeVersion: door.noticeVersion });
    await technician.command({ type: 'endSession', reason: 'technician', why: 'done', fact: undefined });
    await technician.command({
      type: 'logOutcome',
      outcome: 'resolved',
      minutes: 6,
      note: 'The roll lay the wrong way up. Turned it with her on the telephone; a test pass scanned at the gate.',
    });
  } finally {
    technician.close();
    customer.close();
  }
}
