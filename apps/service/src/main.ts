import { buildApp } from './app.ts';
import { ConfigError, readConfig } from './config.ts';

async function main(): Promise<void> {
  const config = readConfig(process.env);
  const app = await buildApp(config);
  for (const signal of ['SIGINT', 'SIGTERM'] as const)
    process.once(signal, () => {
      void app.close().then(() => process.exit(0));
    });
  await app.listen({ host: config.host, port: config.port });
  // The one line that whoever started us waits for.
  process.stdout.write(
    `${JSON.stringify({ ready: true, url: `http://${config.host}:${String((app.server.address() as { port: number }).port)}` })}\n`,
  );
}

main().catch((error: unknown) => {
  process.stderr.write(
    error instanceof ConfigError
      ? `Zesty Porch cannot start: ${error.message}\n`
      : `Zesty Porch cannot start: ${String((error as Error).stack)}\n`,
  );
  process.exit(error instanceof ConfigError ? 2 : 1);
});
