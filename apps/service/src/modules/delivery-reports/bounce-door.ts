import type { FastifyBaseLogger } from 'fastify';
import { simpleParser } from 'mailparser';
import { SMTPServer } from 'smtp-server';
import type { DeliveryReport } from '../messages/message-gateway.ts';

const MAX_REPORT_BYTES = 256 * 1024;
const MAX_CONNECTIONS = 20;

/**
 * Reads a delivery status notification (RFC 3464): the action of its first recipient, and the reason in the words of
 * the server that gave up. Undefined for any other mail.
 */
export async function readDeliveryReport(raw: Buffer): Promise<DeliveryReport | undefined> {
  const mail = await simpleParser(raw, { keepDeliveryStatus: true, skipTextToHtml: true });
  const part = mail.attachments.find((a) => a.contentType === 'message/delivery-status');
  if (!part) return undefined;
  const fields = part.content.toString('utf8').replace(/\r?\n[ \t]+/g, ' ');
  const field = (name: string) => new RegExp(`^${name}:[ \\t]*(.*)$`, 'im').exec(fields)?.[1]?.trim();
  const action = field('Action')?.toLowerCase();
  const why = (field('Diagnostic-Code') ?? field('Status') ?? '').replace(/^smtp;\s*/i, '').slice(0, 200);
  if (action === 'failed') return { state: 'failed', why: why || 'it came back' };
  if (action === 'delayed') return { state: 'delayed', why: why || 'it is delayed' };
  return action === 'delivered' || action === 'relayed' ? { state: 'delivered', why } : undefined;
}

/** A small mail server that takes nothing but reports about mails of ours, to their own return addresses. */
export class BounceDoor {
  readonly #server: SMTPServer;
  readonly #port: number;
  readonly #host: string;

  constructor(
    host: string,
    port: number,
    log: FastifyBaseLogger,
    onReport: (reportRef: string, report: DeliveryReport) => Promise<void>,
  ) {
    this.#host = host;
    this.#port = port;
    this.#server = new SMTPServer({
      disabledCommands: ['AUTH', 'STARTTLS'],
      size: MAX_REPORT_BYTES,
      maxClients: MAX_CONNECTIONS,
      onRcptTo: ({ address }, _session, done) =>
        done(
          refOf(address)
            ? undefined
            : Object.assign(new Error('only delivery reports are taken here'), { responseCode: 550 }),
        ),
      onData: (stream, session, done) => {
        const parts: Buffer[] = [];
        let bytes = 0;
        stream.on('data', (part: Buffer) => {
          bytes += part.length;
          if (bytes <= MAX_REPORT_BYTES) parts.push(part);
        });
        stream.on('end', () => {
          if (bytes > MAX_REPORT_BYTES) {
            done(Object.assign(new Error('too large for a report'), { responseCode: 552 }));
            return;
          }
          readDeliveryReport(Buffer.concat(parts))
            .then(async (report) => {
              for (const { address } of session.envelope.rcptTo) {
                const ref = refOf(address);
                if (report && ref) await onReport(ref, report);
              }
              done();
            })
            .catch((error: unknown) => {
              log.warn({ err: error }, 'a delivery report could not be read');
              done(Object.assign(new Error('not taken now, try later'), { responseCode: 451 }));
            });
        });
      },
    });
    this.#server.on('error', (error) => log.warn({ err: error }, 'the door for delivery reports has trouble'));
  }

  listen(): Promise<void> {
    return new Promise((resolve, reject) => {
      this.#server.once('error', reject);
      this.#server.listen(this.#port, this.#host, () => {
        this.#server.off('error', reject);
        resolve();
      });
    });
  }

  close(): Promise<void> {
    return new Promise((resolve) => this.#server.close(() => resolve()));
  }
}

const refOf = (address: string): string | undefined => /^bounce-([\w-]{20,60})@/.exec(address)?.[1];
