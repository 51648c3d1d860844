import { createServer, connect } from 'node:net';
import { pass } from './gates.ts';

/**
 * Runs with the network of a stand-in computer and the files of the machine: what connects to a port there reaches the
 * socket of that port in a folder here. `bridge FOLDER PORT…`; prints a line when all are open.
 */
const [folder = '', ...ports] = process.argv.slice(2);
await Promise.all(
  ports.map(
    (port) =>
      new Promise<void>((resolve, reject) => {
        // What is small waits for nothing: a key must not wait until the one before was acknowledged.
        const server = createServer({ noDelay: true }, (socket) => pass(socket, connect(`${folder}/${port}`)));
        server.once('error', reject);
        server.listen(Number(port), '127.0.0.1', resolve);
      }),
  ),
);
process.stdout.write('open\n');
