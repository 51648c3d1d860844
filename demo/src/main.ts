import { emailOf, PASSWORD } from './marrowick.ts';
import { watchPost } from './post-room.ts';
import { readTicketsKey, setStage } from './stage.ts';
import { buildTelephone } from './telephone.ts';
import { RestClient, fetchExchange, inBackground } from '@porch/client';
import { formatCode } from '@porch/core';

const startedAt = Date.now();
const say = (line: string) => process.stdout.write(`${line}\n`);

let isStopping = false;
const stage = await setStage((line) => say(line.startsWith('  ') ? line : `• ${line}`));
const telephone = buildTelephone(stage.customers, say);
const telephoneUrl = await telephone
  .listen({ host: '127.0.0.1', port: 8422 })
  .catch(() => telephone.listen({ host: '127.0.0.1', port: 0 }));
const stopWatching = watchPost({ ...stage, ticketsKey: readTicketsKey(stage.folder), tell: say });

async function stop(code: number): Promise<void> {
  if (isStopping) return;
  isStopping = true;
  say('\n• Stopping everything');
  stopWatching();
  await telephone.close();
  await stage.stop();
  process.exit(code);
}
process.on('SIGINT', () => inBackground('stopping', stop(0)));
process.on('SIGTERM', () => inBackground('stopping', stop(0)));
stage.processes.onUnexpectedEnd = (name) => {
  // Doorstep and small programs come and go; without these there is no demo.
  if (name === 'service' || name === 'ticket system' || name.startsWith('screen of')) {
    say(`✗ The ${name} has ended; the demo stops.`);
    inBackground('stopping', stop(1));
  }
};

const rest = new RestClient(fetchExchange(stage.serviceUrl));
rest.token = (await rest.signIn(emailOf('Pim Aldersey'), PASSWORD, 'token')).token;
const { code } = await rest.start({});
await rest.signOut();

say(`
Zesty Porch is ready (${((Date.now() - startedAt) / 1000).toFixed(1)} s).

  Console        ${stage.serviceUrl}/console/      sign in as ${emailOf('Pim Aldersey')}, password ${PASSWORD}
                 a colleague: ${emailOf('Rune Takahashi')} (same password, another browser window)
  Front door     ${stage.serviceUrl}/              a code to try: ${formatCode(code.digits)}
  Telephone      ${telephoneUrl}/              read a code to Bettina or Samir (simulated)
  Ticket system  ${stage.ticketsUrl}/              simulated, with its own data
  Post           ${stage.postUrl}/              mailboxes and telephones (simulated); make them fail here
  Staff pages    ${stage.postUrl}/ferry         a page with the help box in it (simulated)

First: sign in to the console, type MF-201 and press Enter. Then press "Comment in the ticket" or "Mail":
Bettina reads it there, comes in, and answers what you ask her. Ctrl-C stops everything.
`);
