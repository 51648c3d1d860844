import type { PrintedDocument } from '@porch/host';
import type { PrintRefused } from '@porch/core';
import { MAX_PRINT_BYTES } from '@porch/wire';
import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http';
import type { AddressInfo, Socket } from 'node:net';
import { RequestReading, type ReadRequest, type Verdict } from './request-reading.ts';
import {
  encodeIpp,
  enumerated,
  groupTags,
  integer,
  keyword,
  nameOf,
  uri,
  type Attribute,
  type ReadMessage,
} from './ipp.ts';
import { messageHead, operations, printerAttributes, wantedOf } from './printer-attributes.ts';

/** Connections at once: one print system needs two. */
const MAX_CONNECTIONS = 8;
/** A request is here whole within this. */
const REQUEST_MS = 120_000;
/** Jobs of which it can still be asked what became of them. */
const MAX_KNOWN_JOBS = 50;
const PDF_HEAD = '%PDF-';

/** Status codes (RFC 8011, appendix B). */
const status = {
  ok: 0x0000,
  notFound: 0x0406,
  notSupported: 0x0501,
  busy: 0x0507,
} as const;
/** States of a job (RFC 8011, 5.3.7). */
const jobStates = { pending: 3, canceled: 7, aborted: 8, completed: 9 } as const;

interface Job {
  readonly name: string;
  readonly user: string;
  /** Nothing of it is kept. */
  readonly isDropped: boolean;
  state: (typeof jobStates)[keyof typeof jobStates];
}

export interface IppPrinterOptions {
  readonly title: string;
  /** A secret part of its address. */
  readonly path: string;
  readonly uuid: string;
  nowMs(): number;
  /** Whether whoever connects may speak with it at all. */
  mayConnect(socket: Socket): boolean;
  /** Whether a document of this account's is taken. */
  isTheirs(user: string): boolean;
  room(sizeBytes: number): 'later' | 'never' | undefined;
  take(document: PrintedDocument): boolean;
  refused(why: PrintRefused): void;
  warn(error: unknown): void;
}

const first = (message: ReadMessage, name: string): string | number | boolean | undefined =>
  message.groups.find(({ tag }) => tag === groupTags.operation)?.values.get(name)?.[0];
const said = (message: ReadMessage, name: string): string => {
  const value = first(message, name);
  return typeof value === 'string' ? value : '';
};

/** A printer on loopback that takes PDFs (RFC 8010 over HTTP, RFC 8011), for one session and one technician. */
export class IppPrinter {
  readonly #options: IppPrinterOptions;
  readonly #server: Server;
  readonly #jobs = new Map<number, Job>();
  readonly #begunAtMs: number;
  #lastJob = 0;

  private constructor(options: IppPrinterOptions) {
    this.#options = options;
    this.#begunAtMs = options.nowMs();
    this.#server = createServer({ requestTimeout: REQUEST_MS }, (incoming, response) => {
      this.#answer(incoming, response).catch((error: unknown) => {
        options.warn(error);
        response.destroy();
      });
    });
    this.#server.maxConnections = MAX_CONNECTIONS;
    this.#server.on('connection', (socket) => {
      if (!options.mayConnect(socket)) socket.destroy();
    });
  }

  static async open(options: IppPrinterOptions): Promise<IppPrinter> {
    const printer = new IppPrinter(options);
    await new Promise<void>((resolve, reject) => {
      printer.#server.once('error', reject).listen(0, '127.0.0.1', resolve);
    });
    printer.#server.on('error', (error) => options.warn(error));
    return printer;
  }

  get uri(): string {
    return `ipp://127.0.0.1:${(this.#server.address() as AddressInfo).port}${this.#options.path}`;
  }

  /** Nothing is taken from this moment on; resolves once nobody is connected any longer. */
  close(): Promise<void> {
    return new Promise((resolve) => {
      this.#server.close(() => resolve());
      this.#server.closeAllConnections();
    });
  }

  async #answer(incoming: IncomingMessage, response: ServerResponse): Promise<void> {
    // Other people of this computer may connect, too: who does not know the address learns nothing.
    if (incoming.method !== 'POST' || incoming.url !== this.#options.path) {
      response.writeHead(404).end();
      return;
    }
    const reading = new RequestReading(MAX_PRINT_BYTES, (message) => this.#look(message));
    try {
      for await (const part of incoming) reading.add(part as Buffer);
      this.#say(response, reading.whole());
    } catch (error) {
      this.#options.warn(error);
      response.writeHead(400, { connection: 'close' }).end();
    }
  }

  #say(response: ServerResponse, read: ReadRequest): void {
    const { message, verdict } = read;
    const { code, groups = [] } = verdict === 'wait' ? { code: status.busy } : this.#carryOut(read);
    const { requestId, version } = message;
    const body = encodeIpp({
      ...{ version, code, requestId },
      groups: [{ tag: groupTags.operation, attributes: messageHead }, ...groups],
    });
    response.writeHead(200, { 'content-type': 'application/ipp', 'content-length': body.length }).end(body);
  }

  /** Before anything of a document is kept: whether it may come, has to wait, or is taken and dropped. */
  #look(message: ReadMessage): Verdict {
    const { printJob, validateJob, createJob, sendDocument } = operations;
    const asks: readonly number[] = [printJob, validateJob, createJob, sendDocument];
    if (!asks.includes(message.code)) return 'take';
    const job = message.code === sendDocument ? this.#jobOf(message)?.[1] : undefined;
    if (job?.isDropped) return 'drop';
    if (!this.#options.isTheirs(job?.user ?? said(message, 'requesting-user-name'))) {
      if (message.code !== validateJob) this.#options.refused('somebody-else');
      return 'drop';
    }
    const room = this.#options.room(1);
    if (room === undefined) return 'take';
    return room === 'never' ? 'drop' : 'wait';
  }

  #carryOut(read: ReadRequest): { code: number; groups?: { tag: number; attributes: Attribute[] }[] } {
    const { message } = read;
    const { code } = message;
    if (code === operations.getPrinterAttributes) return this.#tellPrinter(message);
    if (code === operations.validateJob || code === operations.identifyPrinter) return { code: status.ok };
    if (code === operations.getJobs) return { code: status.ok };
    if (code === operations.printJob || code === operations.createJob) {
      const number = this.#newJob(read);
      if (code === operations.printJob) this.#document(number, read);
      return this.#tellJob(number);
    }
    const job = this.#jobOf(message);
    if (!job) return { code: this.#isOfJob(code) ? status.notFound : status.notSupported };
    const [number] = job;
    if (code === operations.sendDocument) this.#document(number, read);
    else if (code === operations.cancelJob && job[1].state === jobStates.pending) job[1].state = jobStates.canceled;
    return this.#isOfJob(code) ? this.#tellJob(number) : { code: status.notSupported };
  }

  #isOfJob(code: number): boolean {
    const { sendDocument, cancelJob, getJobAttributes, closeJob } = operations;
    return ([sendDocument, cancelJob, getJobAttributes, closeJob] as readonly number[]).includes(code);
  }

  #newJob({ message, verdict }: ReadRequest): number {
    const number = ++this.#lastJob;
    const [name, user] = [said(message, 'job-name'), said(message, 'requesting-user-name')];
    this.#jobs.set(number, { name, user, state: jobStates.pending, isDropped: verdict === 'drop' });
    this.#jobs.delete(number - MAX_KNOWN_JOBS);
    return number;
  }

  /**
   * The document of a job is here. What is not taken ends as aborted: said no to, a print system would try again and
   * again, and keep it.
   */
  #document(number: number, { document, sha256, message, isTooLarge }: ReadRequest): void {
    const job = this.#jobs.get(number);
    if (job?.state !== jobStates.pending) return;
    job.state = jobStates.aborted;
    if (job.isDropped) return;
    if (isTooLarge) return this.#options.refused('too-large');
    if (document.subarray(0, PDF_HEAD.length).toString('latin1') !== PDF_HEAD) return this.#options.refused('no-pdf');
    const title = job.name || said(message, 'document-name');
    if (this.#options.take({ title, bytes: document, sha256 })) job.state = jobStates.completed;
  }

  #jobOf(message: ReadMessage): readonly [number, Job] | undefined {
    const number = Number(first(message, 'job-id') ?? said(message, 'job-uri').split('/').at(-1));
    const job = this.#jobs.get(number);
    return job && [number, job];
  }

  #tellPrinter(message: ReadMessage) {
    const requested = message.groups.find(({ tag }) => tag === groupTags.operation)?.values.get('requested-attributes');
    const { title, uuid } = this.#options;
    const isAccepting = this.#options.room(1) !== 'never';
    const attributes = printerAttributes({ uri: this.uri, uuid, title, upSeconds: this.#upSeconds, isAccepting });
    return { code: status.ok, groups: [{ tag: groupTags.printer, attributes: wantedOf(attributes, requested) }] };
  }

  #tellJob(number: number) {
    const job = this.#jobs.get(number);
    const isDone = job?.state === jobStates.completed;
    const attributes = [
      integer('job-id', number),
      uri('job-uri', `${this.uri}/${number}`),
      enumerated('job-state', job?.state ?? jobStates.aborted),
      keyword('job-state-reasons', isDone ? 'job-completed-successfully' : 'none'),
      uri('job-printer-uri', this.uri),
      nameOf('job-name', job?.name ?? ''),
      nameOf('job-originating-user-name', job?.user ?? ''),
      integer('job-printer-up-time', this.#upSeconds),
    ];
    return { code: status.ok, groups: [{ tag: groupTags.job, attributes }] };
  }

  get #upSeconds(): number {
    return Math.floor((this.#options.nowMs() - this.#begunAtMs) / 1_000) + 1;
  }
}
