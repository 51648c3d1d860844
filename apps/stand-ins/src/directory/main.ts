import { readFileSync } from 'node:fs';
import { buildDirectoryApp } from './directory-app.ts';

const {
  DIRECTORY_PORT = '8424',
  DIRECTORY_CLIENT_ID = 'porch',
  DIRECTORY_SECRET_FILE,
  DIRECTORY_PEOPLE = '',
} = process.env;
if (!DIRECTORY_SECRET_FILE) {
  process.stderr.write('The stand-in directory needs DIRECTORY_SECRET_FILE.\n');
  process.exit(2);
}
const port = Number(DIRECTORY_PORT);
const app = await buildDirectoryApp({
  issuer: `http://127.0.0.1:${port}`,
  clientId: DIRECTORY_CLIENT_ID,
  clientSecret: readFileSync(DIRECTORY_SECRET_FILE, 'utf8').trim(),
  // "Name <address>, …"; a question mark behind it: the directory never checked that address.
  people: [...DIRECTORY_PEOPLE.matchAll(/([^<,]+)<([^>]+)>(\??)/g)].map((m) => ({
    name: (m[1] ?? '').trim(),
    address: m[2] ?? '',
    isVerified: m[3] !== '?',
  })),
});
for (const signal of ['SIGINT', 'SIGTERM'] as const)
  process.once(signal, () =>
    app.close().then(
      () => process.exit(0),
      () => process.exit(1),
    ),
  );
const url = await app.listen({ host: '127.0.0.1', port });
process.stdout.write(`${JSON.stringify({ ready: true, url })}\n`);
