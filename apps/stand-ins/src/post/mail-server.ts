import { randomUUID } from 'node:crypto';
import { createTransport } from 'nodemailer';
import { simpleParser } from 'mailparser';
import { SMTPServer, type SMTPServerSession } from 'smtp-server';

export type MailMode = 'well' | 'refuse' | 'bounce' | 'delay' | 'down';
export const mailModes: readonly MailMode[] = ['well', 'refuse', 'bounce', 'delay', 'down'];

export interface KeptMail {
  readonly id: string;
  readonly atMs: number;
  readonly to: string;
  readonly from: string;
  readonly subject: string;
  readonly text: string;
  readonly attachments: readonly { readonly type: string; readonly name: string; readonly content: string }[];
}

const MAX_KEPT = 500;
const MAX_MAIL_BYTES = 1024 * 1024;

export interface MailServerOptions {
  readonly port: number;
  /** Who has a mailbox here; a mail to anybody else comes back. */
  readonly people: readonly string[];
  /** Where reports about mails go: host and port of who sent them. */
  readonly reportsTo: { readonly host: string; readonly port: number } | undefined;
  readonly delayMs: number;
}

/**
 * A mail server for demo and tests: takes mail over SMTP, keeps it in memory, and reports on delivery the way mail
 * servers do (RFC 3461, RFC 3464). On request it refuses, bounces, delays or is down.
 */
export class MailServer {
  readonly #options: MailServerOptions;
  readonly #mails: KeptMail[] = [];
  readonly #timers = new Set<ReturnType<typeof setTimeout>>();
  #server: SMTPServer | undefined;
  #mode: MailMode = 'well';
  port = 0;

  constructor(options: MailServerOptions) {
    this.#options = options;
    this.port = options.port;
  }

  get mode(): MailMode {
    return this.#mode;
  }
  get mails(): readonly KeptMail[] {
    return this.#mails;
  }

  async setMode(mode: MailMode): Promise<void> {
    this.#mode = mode;
    if (mode === 'down') await this.#stopListening();
    else if (!this.#server) await this.listen();
  }

  listen(): Promise<void> {
    const server = new SMTPServer({
      disabledCommands: ['AUTH', 'STARTTLS'],
      size: MAX_MAIL_BYTES,
      hideDSN: false,
      onRcptTo: ({ address }, _session, done) =>
        done(
          this.#mode === 'refuse'
            ? Object.assign(new Error(`5.1.1 <${address}> is not known here`), { responseCode: 550 })
            : undefined,
        ),
      onData: (stream, session, done) => {
        const parts: Buffer[] = [];
        stream.on('data', (part: Buffer) => parts.push(part));
        stream.on('end', () => {
          this.#take(Buffer.concat(parts), session).then(
            () => done(),
            (error: unknown) => done(error as Error),
          );
        });
      },
    } as ConstructorParameters<typeof SMTPServer>[0]);
    server.on('error', () => undefined); // A client that goes away in the middle is no news.
    this.#server = server;
    return new Promise((resolve, reject) => {
      server.once('error', reject);
      const listening = server.listen(this.port, '127.0.0.1', () => {
        this.port = (listening.address() as { port: number }).port;
        resolve();
      });
    });
  }

  async close(): Promise<void> {
    for (const timer of this.#timers) clearTimeout(timer);
    await this.#stopListening();
  }

  async #stopListening(): Promise<void> {
    const server = this.#server;
    this.#server = undefined;
    if (server) await new Promise<void>((resolve) => server.close(() => resolve()));
  }

  async #take(raw: Buffer, session: SMTPServerSession): Promise<void> {
    const from = session.envelope.mailFrom ? session.envelope.mailFrom.address : '';
    const mail = await simpleParser(raw);
    for (const { address } of session.envelope.rcptTo) {
      const keep = () => {
        this.#mails.unshift({
          id: randomUUID(),
          atMs: Date.now(),
          to: address.toLowerCase(),
          from: mail.from?.text ?? from,
          subject: mail.subject ?? '',
          text: mail.text ?? '',
          attachments: mail.attachments.map((a) => ({
            type: a.contentType,
            name: a.filename ?? '',
            content: a.content.toString('utf8'),
          })),
        });
        this.#mails.length = Math.min(this.#mails.length, MAX_KEPT);
      };
      const isKnown = this.#options.people.includes(address.toLowerCase());
      if (this.#mode === 'bounce' || !isKnown)
        await this.#report(from, address, 'failed', '5.1.1', `550 5.1.1 <${address}>: nobody here has this address`);
      else if (this.#mode === 'delay') {
        await this.#report(from, address, 'delayed', '4.4.7', '451 4.4.7 the mailbox is busy; trying again');
        const timer = setTimeout(() => {
          this.#timers.delete(timer);
          keep();
          void this.#report(from, address, 'delivered', '2.0.0', '250 2.0.0 in the mailbox').catch(() => undefined);
        }, this.#options.delayMs);
        this.#timers.add(timer);
      } else {
        keep();
        await this.#report(from, address, 'delivered', '2.0.0', '250 2.0.0 in the mailbox');
      }
    }
  }

  /** A delivery status notification to the return address. The first mail is taken whether or not its report is. */
  async #report(returnTo: string, recipient: string, action: string, status: string, why: string): Promise<void> {
    const { reportsTo } = this.#options;
    if (!reportsTo || !returnTo) return;
    const boundary = `report-${randomUUID()}`;
    const text = [
      'From: Mail server <postmaster@mail.marrowick.example>',
      `To: <${returnTo}>`,
      `Subject: Your mail to ${recipient}: ${action}`,
      'Auto-Submitted: auto-replied',
      'MIME-Version: 1.0',
      `Content-Type: multipart/report; report-type=delivery-status; boundary="${boundary}"`,
      '',
      `--${boundary}`,
      'Content-Type: text/plain; charset=utf-8',
      '',
      `Your mail to ${recipient}: ${action}. ${why}`,
      '',
      `--${boundary}`,
      'Content-Type: message/delivery-status',
      '',
      'Reporting-MTA: dns; mail.marrowick.example',
      '',
      `Final-Recipient: rfc822; ${recipient}`,
      `Action: ${action}`,
      `Status: ${status}`,
      `Diagnostic-Code: smtp; ${why}`,
      '',
      `--${boundary}--`,
      '',
    ].join('\r\n');
    const transport = createTransport({ host: reportsTo.host, port: reportsTo.port, ignoreTLS: true });
    try {
      await transport.sendMail({ envelope: { from: '', to: returnTo }, raw: text });
    } catch {
      // Whoever sent it does not take reports just now; a real server would try later, this one lets it be.
    } finally {
      transport.close();
    }
  }
}
