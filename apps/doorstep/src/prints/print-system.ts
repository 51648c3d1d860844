import { request } from 'node:http';
import { setTimeout as wait } from 'node:timers/promises';
import { existsSync } from 'node:fs';
import { userInfo } from 'node:os';
import {
  bool,
  decodeIpp,
  encodeIpp,
  groupTags,
  keyword,
  nameOf,
  text,
  uri,
  type Attribute,
  type ReadMessage,
} from './ipp.ts';
import { messageHead } from './printer-attributes.ts';

/** Where the print system of this computer listens for programs of its people. */
const SOCKET = '/run/cups/cups.sock';
const ANSWER_MS = 10_000;
const MAX_ANSWER_BYTES = 256 * 1024;
/** A printer that was added is looked at so often until it takes something: ten seconds. */
const LOOK_MS = 20;
const MOST_LOOKS = 500;
const FIRST_ERROR = 0x0400;
/** Of our own, so that an answer to a question can be told from another. */
const REQUEST_ID = 1;
const HTTP_OK = 200;

/** Operations of this print system beyond those of the standard, as its API documents them. */
const operations = {
  ...{ cancelJob: 0x08, getJobs: 0x0a, getPrinterAttributes: 0x0b },
  ...{ deletePrinter: 0x4004, createLocalPrinter: 0x4028 },
} as const;

export const hasPrintSystem = (): boolean => existsSync(SOCKET);

/** The print system said no. */
export class PrintSystemRefused extends Error {
  readonly code: number;
  constructor(code: number, why: string) {
    super(why || `the print system refused it (${code.toString(16)})`);
    this.code = code;
  }
}

/** This computer's print system, as the person who is signed in may use it. */
export class PrintSystem {
  readonly #user = userInfo().username;

  /**
   * Puts a printer into the list, and resolves once it takes something: the print system asks the printer what it can
   * first. Refused for a name that somebody has.
   */
  async addLocal(name: string, device: string, title: string): Promise<void> {
    await this.#ask(operations.createLocalPrinter, '/', [uri('printer-uri', 'ipp://localhost/')], {
      tag: groupTags.printer,
      attributes: [nameOf('printer-name', name), uri('device-uri', device), text('printer-info', title)],
    });
    for (let look = 0; look < MOST_LOOKS; look++) {
      if ((await this.#tellOf(name, 'printer-is-accepting-jobs')) === true) return;
      await wait(LOOK_MS);
    }
    throw new PrintSystemRefused(0, 'the printer never took anything');
  }

  /** Where a printer of this name sends what is printed on it; undefined when there is none. */
  async deviceOf(name: string): Promise<string | undefined> {
    const device = await this.#tellOf(name, 'device-uri');
    return typeof device === 'string' ? device : undefined;
  }

  /** What the print system says of one of its printers; undefined when there is none. */
  async #tellOf(name: string, what: string): Promise<unknown> {
    try {
      const { groups } = await this.#ask(operations.getPrinterAttributes, pathOf(name), [printerUri(name)]);
      return groups.find(({ tag }) => tag === groupTags.printer)?.values.get(what)?.[0];
    } catch (error) {
      if (error instanceof PrintSystemRefused) return undefined;
      throw error;
    }
  }

  /** Ends what this account printed on it and is still there. */
  async cancelMine(name: string): Promise<void> {
    const mine = [
      bool('my-jobs', true),
      keyword('which-jobs', 'not-completed'),
      keyword('requested-attributes', 'job-id'),
    ];
    for (const number of await this.#jobsOf(name, mine))
      await this.#ask(operations.cancelJob, '/jobs/', [uri('job-uri', `ipp://localhost/jobs/${number}`)]);
  }

  async #jobsOf(name: string, about: readonly Attribute[]): Promise<number[]> {
    const { groups } = await this.#ask(operations.getJobs, pathOf(name), [printerUri(name)], undefined, about);
    return groups
      .filter(({ tag }) => tag === groupTags.job)
      .map(({ values }) => Number(values.get('job-id')?.[0]))
      .filter(Number.isInteger);
  }

  /** Takes it out of the list at once, where this account may do that; says whether it could. */
  async remove(name: string): Promise<boolean> {
    try {
      await this.#ask(operations.deletePrinter, '/admin/', [printerUri(name)]);
      return true;
    } catch (error) {
      if (error instanceof PrintSystemRefused) return false;
      throw error;
    }
  }

  async #ask(
    code: number,
    path: string,
    attributes: readonly Attribute[],
    more?: { readonly tag: number; readonly attributes: readonly Attribute[] },
    about: readonly Attribute[] = [],
  ): Promise<ReadMessage> {
    // The target stands first, and who asks behind it (RFC 8011, 4.1.5).
    const operation = [...messageHead, ...attributes, nameOf('requesting-user-name', this.#user), ...about];
    const groups = [{ tag: groupTags.operation, attributes: operation }, ...(more ? [more] : [])];
    const answer = decodeIpp(await this.#post(path, encodeIpp({ code, requestId: REQUEST_ID, groups })));
    if (answer.code < FIRST_ERROR) return answer;
    const why = answer.groups[0]?.values.get('status-message')?.[0];
    throw new PrintSystemRefused(answer.code, typeof why === 'string' ? why : '');
  }

  #post(path: string, body: Buffer): Promise<Buffer> {
    return new Promise((resolve, reject) => {
      const asking = request(
        {
          ...{ socketPath: SOCKET, method: 'POST', path, timeout: ANSWER_MS, signal: AbortSignal.timeout(ANSWER_MS) },
          headers: {
            'content-type': 'application/ipp',
            'content-length': body.length,
            host: 'localhost',
            // Who this is, the socket itself proves.
            authorization: `PeerCred ${this.#user}`,
          },
        },
        (response) => {
          const parts: Buffer[] = [];
          let bytes = 0;
          response.on('data', (part: Buffer) => {
            bytes += part.length;
            if (bytes > MAX_ANSWER_BYTES) response.destroy(new Error('the print system says too much'));
            else parts.push(part);
          });
          response.once('error', reject);
          response.once('end', () => {
            if (response.statusCode === HTTP_OK) resolve(Buffer.concat(parts));
            else reject(new PrintSystemRefused(response.statusCode ?? 0, ''));
          });
        },
      );
      asking.once('error', reject);
      asking.end(body);
    });
  }
}

const pathOf = (name: string): string => `/printers/${encodeURIComponent(name)}`;
const printerUri = (name: string): Attribute => uri('printer-uri', `ipp://localhost${pathOf(name)}`);
