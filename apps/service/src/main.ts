import { buildApp } from './app.ts';
import { ConfigError, readConfig } from './config.ts';
import { TablesTooNew } from './db/migrate.ts';
import { SecondProcess } from './db/owner-lock.ts';
import { loggedError } from './logging.ts';
import { PolicyRefused } from './modules/policy/policy-refused.ts';

let unhandledRejections = 0;

async function main(): Promise<void> {
  const config = readConfig(process.env);
  const app = await buildApp({
    ...config,
    unhandledRejections: () => unhandledRejections,
    ownershipLost: () => {
      process.stderr.write('Zesty Porch ends: another process serves these records now.\n');
      process.exit(1);
    },
  });
  // A promise that nobody waited for is a fault of ours in one place; everybody else's session is no reason to end.
  process.on('unhandledRejection', (error) => {
    unhandledRejections++;
    app.log.error({ err: error }, 'a promise failed that nobody waited for');
  });
  // What was thrown past everything leaves state that nobody can vouch for: the last resort is a clean start.
  process.on('uncaughtException', (error) => {
    app.log.fatal({ err: error }, 'something was thrown past everything; the process ends and is to be started again');
    process.exit(1);
  });
  let isStopping = false;
  const stop = (): void => {
    if (isStopping) return;
    isStopping = true;
    app.close().then(
      () => process.exit(0),
      (error: unknown) => {
        app.log.error({ err: error }, 'the service did not stop cleanly');
        process.exit(1);
      },
    );
  };
  for (const signal of ['SIGINT', 'SIGTERM'] as const) process.on(signal, stop);
  await app.listen({ host: config.host, port: config.port });
  // The one line that whoever started us waits for.
  process.stdout.write(
    `${JSON.stringify({ ready: true, url: `http://${config.host}:${String((app.server.address() as { port: number }).port)}` })}\n`,
  );
}

main().catch((error: unknown) => {
  process.stderr.write(
    error instanceof ConfigError ||
      error instanceof PolicyRefused ||
      error instanceof SecondProcess ||
      error instanceof TablesTooNew
      ? `Zesty Porch cannot start: ${error.message}\n`
      : `Zesty Porch cannot start: ${JSON.stringify(loggedError(error))}\n`,
  );
  process.exit(error instanceof ConfigError || error instanceof PolicyRefused ? 2 : 1);
});
