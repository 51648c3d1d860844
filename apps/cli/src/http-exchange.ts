import { request as httpRequest } from 'node:http';
import { request as httpsRequest } from 'node:https';
import type { HttpExchange } from '@porch/client';

const ANSWER_MS = 30_000;

/** `node:http` itself: the global `fetch` alone would double the time a short command takes. */
export const nodeExchange =
  (base: string): HttpExchange =>
  (method, path, headers, body) =>
    new Promise((resolve, reject) => {
      const url = new URL(path, base);
      const send = url.protocol === 'https:' ? httpsRequest : httpRequest;
      const request = send(url, { method, headers, timeout: ANSWER_MS }, (answer) => {
        const parts: Buffer[] = [];
        answer.on('data', (part: Buffer) => parts.push(part));
        answer.on('end', () =>
          resolve({ status: answer.statusCode ?? 0, body: Buffer.concat(parts).toString('utf8') }),
        );
        answer.on('error', reject);
      });
      request.on('timeout', () => request.destroy(new Error('no answer in time')));
      request.on('error', reject);
      request.end(body);
    });
