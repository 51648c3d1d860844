import { readFileSync } from 'node:fs';
import { buildPostApp } from './post-app.ts';
import { MailServer } from './mail-server.ts';
import { TextGateway } from './text-gateway.ts';

const { POST_PORT = '8423', POST_SMTP_PORT = '0', POST_TEXTS_KEY_FILE, POST_TEXTS_WEBHOOK_URL } = process.env;
const { POST_PEOPLE = '', POST_REPORTS_PORT, POST_DELAY_MS = '20000', POST_DESK_URL } = process.env;
if (!POST_TEXTS_KEY_FILE) {
  process.stderr.write('The stand-in post office needs POST_TEXTS_KEY_FILE.\n');
  process.exit(2);
}
const mail = new MailServer({
  port: Number(POST_SMTP_PORT),
  people: POST_PEOPLE.toLowerCase().split(',').filter(Boolean),
  reportsTo: POST_REPORTS_PORT ? { host: '127.0.0.1', port: Number(POST_REPORTS_PORT) } : undefined,
  delayMs: Number(POST_DELAY_MS),
});
const texts = new TextGateway(readFileSync(POST_TEXTS_KEY_FILE, 'utf8').trim(), POST_TEXTS_WEBHOOK_URL);
const app = buildPostApp(mail, texts, POST_DESK_URL);
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () =>
    Promise.all([app.close(), mail.close()]).then(
      () => process.exit(0),
      () => process.exit(1),
    ),
  );
await mail.listen();
const url = await app.listen({ host: '127.0.0.1', port: Number(POST_PORT) });
process.stdout.write(`${JSON.stringify({ ready: true, url })}\n`);
