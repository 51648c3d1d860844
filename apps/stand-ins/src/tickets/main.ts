import { readFileSync } from 'node:fs';
import { buildTicketApp } from './ticket-app.ts';

const {
  TICKETS_PORT = '8421',
  TICKETS_DATA_FILE,
  TICKETS_KEY_FILE,
  TICKETS_WEBHOOK_URL,
  TICKETS_HELP_URL,
} = process.env;
if (!TICKETS_DATA_FILE || !TICKETS_KEY_FILE) {
  process.stderr.write('The stand-in ticket system needs TICKETS_DATA_FILE and TICKETS_KEY_FILE.\n');
  process.exit(2);
}
const app = buildTicketApp({
  key: readFileSync(TICKETS_KEY_FILE, 'utf8').trim(),
  dataFile: TICKETS_DATA_FILE,
  webhookUrl: TICKETS_WEBHOOK_URL,
  helpUrl: TICKETS_HELP_URL,
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () =>
    app.close().then(
      () => process.exit(0),
      () => process.exit(1),
    ),
  );
const url = await app.listen({ host: '127.0.0.1', port: Number(TICKETS_PORT) });
process.stdout.write(`${JSON.stringify({ ready: true, url })}\n`);
