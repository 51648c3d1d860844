import { request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import { platform } from 'node:os';
import { Unreachable, type HttpExchange } from '@porch/client';

const ANSWER_MS = 30_000;
/** What the list of sign-ins shows. */
const PROGRAM = `porch on ${platform()}`;

function exchange(
  url: URL,
  method: string,
  headers: Readonly<Record<string, string>>,
  body: string | undefined,
): Promise<{ status: number; bytes: Buffer }> {
  return new Promise((resolve, reject) => {
    const send = url.protocol === 'https:' ? httpsRequest : httpRequest;
    const request = send(
      url,
      { method, headers: { 'user-agent': PROGRAM, ...headers }, timeout: ANSWER_MS },
      (answer) => {
        const parts: Buffer[] = [];
        answer.on('data', (part: Buffer) => parts.push(part));
        answer.on('end', () => resolve({ status: answer.statusCode ?? 0, bytes: Buffer.concat(parts) }));
        answer.on('error', reject);
      },
    );
    request.on('timeout', () => request.destroy(new Error('no answer in time')));
    request.on('error', reject);
    request.end(body);
  });
}

/** `node:http` itself: the global `fetch` alone would double the time a short command takes. */
export const nodeExchange =
  (base: string): HttpExchange =>
  async (method, path, headers, body) => {
    const { status, bytes } = await exchange(new URL(path, base), method, headers, body);
    return { status, body: bytes.toString('utf8') };
  };

/** A file of the service, as it is. */
export async function fetchBytes(url: string, token: string): Promise<Buffer> {
  const { status, bytes } = await exchange(new URL(url), 'GET', { authorization: `Bearer ${token}` }, undefined);
  if (status !== 200) throw new Unreachable(`the service answered with status ${status}`);
  return bytes;
}
