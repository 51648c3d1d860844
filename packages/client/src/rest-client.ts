import type { Language, Preferences, RestartStep, SystemReport } from '@porch/core';
import {
  addressOf,
  api,
  AppError,
  doWork,
  isErrorCode,
  isoForm,
  MAX_PAGE,
  randomId,
  realRandomness,
  WorkNeeded,
  type AnyOperation,
  type BookingBody,
  type ChosenAction,
  type RightsLeaveBody,
  type InviteBody,
  type JoinBody,
  type KeepDeviceBody,
  type KeepScreenshotBody,
  type KnowledgeNoteFile,
  type KnownFaultBody,
  type NewKnowledgeNote,
  type NewRunbookAction,
  type PackFile,
  type RunbookScope,
  type MoveBookingBody,
  type MyStateBody,
  type RequestBody,
  type SessionPage,
  type SessionSearch,
  type SessionView,
  type StartBody,
  type Work,
} from '@porch/wire';
import { z } from 'zod';

export interface HttpAnswer {
  readonly status: number;
  readonly body: string;
}
/** One HTTP exchange; browsers hand in `fetch`, short-lived programs `node:http`. Rejects when nobody answers. */
export type HttpExchange = (
  method: string,
  path: string,
  headers: Readonly<Record<string, string>>,
  body: string | undefined,
) => Promise<HttpAnswer>;

/** Thrown when the service cannot be reached or says something that is not ours. */
export class Unreachable extends Error {
  override readonly name = 'Unreachable';
}

/** As many of a list as anybody reads. */
const MOST_LISTED = 20_000;
const ProblemBody = z.object({ code: z.string(), details: z.record(z.string(), z.unknown()).optional() });

interface AnyAsked {
  readonly params?: Readonly<Record<string, unknown>>;
  readonly query?: Readonly<Record<string, unknown>>;
  readonly body?: unknown;
}
type NoKeys<T> = [keyof T] extends [never] ? true : string extends keyof T ? true : false;
type MaybeUndefined<T> = { [K in keyof T]?: T[K] | undefined };
/** What an operation takes; what it does not take cannot be said. */
export type Asked<O extends AnyOperation> = (NoKeys<z.input<O['params']>> extends true
  ? { readonly params?: undefined }
  : { readonly params: z.input<O['params']> }) &
  (NoKeys<z.input<O['query']>> extends true
    ? { readonly query?: undefined }
    : { readonly query?: MaybeUndefined<z.input<O['query']>> }) &
  (NonNullable<O['body']> extends z.ZodUndefined
    ? { readonly body?: undefined }
    : { readonly body: z.input<NonNullable<O['body']>> });

/** Every REST call of the service, checked against the wire's schemas on arrival. */
export class RestClient {
  readonly #exchange: HttpExchange;
  readonly #tryId = randomId(realRandomness);
  token: string | undefined;

  constructor(exchange: HttpExchange, token?: string) {
    this.#exchange = exchange;
    this.token = token;
  }

  /** Does one thing of the contract: what is asked and answered is as our programs have it. */
  async call<O extends AnyOperation>(operation: O, asked: Asked<O>): Promise<z.output<O['answer']>> {
    const { params = {}, query = {}, body } = asked as AnyAsked;
    const { method, status } = operation;
    const headers: Record<string, string> = { accept: 'application/json' };
    if (this.token) headers['authorization'] = `Bearer ${this.token}`;
    // A header that a plain form cannot send: the service asks for it wherever a cookie is the key.
    if (method !== 'GET') headers['x-porch'] = '1';
    if (body !== undefined) headers['content-type'] = 'application/json';
    const asIso = operation.body ? isoForm(operation.body).toIso : undefined;
    const said = body === undefined ? undefined : JSON.stringify(asIso?.(body));
    const address = addressOf(operation, params, isoForm(operation.query).toIso(query) as typeof query);
    let answer: HttpAnswer;
    try {
      answer = await this.#exchange(method, `/api/v1${address}`, headers, said);
    } catch (cause) {
      throw new Unreachable('the service does not answer', { cause });
    }
    if (status === 204 && answer.status === 204) return undefined as z.output<O['answer']>;
    const value = readJson(answer.body);
    if (answer.status < 400)
      return operation.answer.parse(isoForm(operation.answer).fromIso(value)) as z.output<O['answer']>;
    const problem = ProblemBody.safeParse(value);
    if (problem.success && isErrorCode(problem.data.code))
      throw new AppError(problem.data.code, problem.data.details ?? {});
    throw new Unreachable(`the service answered with status ${answer.status}`);
  }

  /** A list, whole: page after page. */
  async #all<T>(
    page: (cursor: string | undefined) => Promise<{ items: T[]; next?: string | undefined }>,
  ): Promise<T[]> {
    const all: T[] = [];
    let cursor: string | undefined;
    do {
      const { items, next } = await page(cursor);
      all.push(...items);
      cursor = next;
    } while (cursor !== undefined && all.length < MOST_LISTED);
    return all;
  }

  /** Does the work that a service asks for when somebody guesses at this address; that takes seconds at most. */
  signIn = async (email: string, password: string, keep: 'cookie' | 'token') => {
    const trySo = (work?: Work) =>
      this.call(api.signIn, { body: { email, password, keep, ...(work ? { work } : {}) } });
    try {
      return await trySo();
    } catch (error) {
      if (!(error instanceof AppError && error.code === 'WORK_NEEDED')) throw error;
      const { challenge, bits } = WorkNeeded.parse(error.details);
      return trySo(await doWork(challenge, bits));
    }
  };
  signIns = () => this.#all((cursor) => this.call(api.signIns, { query: { limit: MAX_PAGE, cursor } }));
  endSignIns = (ids: string[] | 'all-others') => this.call(api.endSignIns, { body: { ids } });
  signOut = () => this.call(api.signOut, {});
  me = () => this.call(api.me, {});
  preferences = () => this.call(api.preferences, {});
  keepSystemReport = (id: string, reportId: string, report: SystemReport) =>
    this.call(api.keepSystemReport, { params: { id, reportId }, body: { report } });
  systemReports = (id: string) =>
    this.#all((cursor) => this.call(api.systemReports, { params: { id }, query: { limit: MAX_PAGE, cursor } }));
  systemReport = (id: string, reportId: string) =>
    this.call(api.systemReport, { params: { id, reportId } }).then(({ report }) => report);
  earlierSystemReport = (id: string) =>
    this.call(api.earlierSystemReport, { params: { id } }).then(({ found }) => found);
  earlierSessions = (id: string) => this.call(api.earlierSessions, { params: { id } }).then(({ items }) => items);
  sessionKnowledge = (id: string) => this.call(api.sessionKnowledge, { params: { id } }).then(({ items }) => items);
  knowledgeNotes = (query: Asked<typeof api.knowledgeNotes>['query'] = {}) => this.call(api.knowledgeNotes, { query });
  knowledgeNote = (id: string) => this.call(api.knowledgeNote, { params: { id } });
  writeKnowledgeNote = (body: z.input<typeof NewKnowledgeNote>) => this.call(api.writeKnowledgeNote, { body });
  reviewKnowledgeNote = (id: string) => this.call(api.reviewKnowledgeNote, { params: { id } });
  withdrawKnowledgeNote = (id: string) => this.call(api.withdrawKnowledgeNote, { params: { id } });
  importKnowledgeNotes = (files: KnowledgeNoteFile[]) =>
    this.call(api.importKnowledgeNotes, { body: { files } }).then(({ items }) => items);
  exportKnowledgeNotes = () => this.call(api.exportKnowledgeNotes, {}).then(({ files }) => files);
  runbookActions = (query: Asked<typeof api.runbookActions>['query'] = {}) => this.call(api.runbookActions, { query });
  runbookAction = (id: string) => this.call(api.runbookAction, { params: { id } });
  writeRunbookAction = (body: z.input<typeof NewRunbookAction>) => this.call(api.writeRunbookAction, { body });
  reviewRunbookAction = (id: string) => this.call(api.reviewRunbookAction, { params: { id } });
  approveRunbookAction = (id: string) => this.call(api.approveRunbookAction, { params: { id } });
  withdrawRunbookAction = (id: string) => this.call(api.withdrawRunbookAction, { params: { id } });
  importPack = (files: PackFile[], scope: RunbookScope) => this.call(api.importPack, { body: { files, scope } });
  exportPack = () => this.call(api.exportPack, {}).then(({ files }) => files);
  chooseRunbookAction = (id: string, body: z.input<typeof ChosenAction>) =>
    this.call(api.chooseRunbookAction, { params: { id }, body });
  findCallers = (telephone: string) => this.call(api.findCallers, { body: { telephone } });
  sessionTelephone = (id: string) => this.call(api.sessionTelephone, { params: { id } });
  setPreferences = (body: Preferences) => this.call(api.setPreferences, { body });
  colleagues = () => this.#all((cursor) => this.call(api.colleagues, { query: { limit: MAX_PAGE, cursor } }));
  porch = () => this.call(api.porch, {});
  tickets = async (words: string) => (await this.call(api.tickets, { query: { words } })).items;
  start = (body: z.input<typeof StartBody>) =>
    this.call(api.startSession, { body: { sessionId: randomId(realRandomness), ...body } });
  /** Of those that the technician may read, page by page. */
  findSessions = (query: { [K in keyof SessionSearch]?: SessionSearch[K] | undefined } = {}): Promise<SessionPage> =>
    this.call(api.sessions, { query });
  /** The first page. */
  sessions = async (words = ''): Promise<SessionView[]> => (await this.findSessions({ words })).items;
  session = (id: string) => this.call(api.session, { params: { id } });
  draft = (id: string) => this.call(api.draft, { params: { id } });
  ledger = (id: string) => this.call(api.ledger, { params: { id } });
  keepScreenshot = (id: string, body: KeepScreenshotBody) => this.call(api.keepScreenshot, { params: { id }, body });
  screenshots = (id: string) =>
    this.#all((cursor) => this.call(api.screenshots, { params: { id }, query: { limit: MAX_PAGE, cursor } }));
  erase = (id: string, rule: string) => this.call(api.eraseSession, { params: { id }, body: { rule } });
  newCode = (id: string) => this.call(api.newCode, { params: { id } });
  withdrawCode = (id: string) => this.call(api.withdrawCode, { params: { id } });
  invitations = (id: string) =>
    this.#all((cursor) => this.call(api.invitations, { params: { id }, query: { limit: MAX_PAGE, cursor } }));
  invite = (id: string, body: z.input<typeof InviteBody>) => this.call(api.invite, { params: { id }, body });
  previewInvitation = (id: string, body: z.input<typeof InviteBody>) =>
    this.call(api.previewInvitation, { params: { id }, body });
  withdrawInvitation = (id: string, invitationId: string) =>
    this.call(api.withdrawInvitation, { params: { id, invitationId } });
  invitationLink = (id: string, invitationId: string) =>
    this.call(api.invitationLink, { params: { id, invitationId } });
  /** What a browser or a program fetches as it is: the QR picture, the calendar entry, the join file. */
  invitationFilePath = (id: string, invitationId: string, file: 'qr.png' | 'calendar' | 'join-file') =>
    `/api/v1/sessions/${id}/invitations/${invitationId}/${file}`;
  postLink = (id: string) => this.invite(id, { way: 'ticket-comment' });
  livePass = (id: string) => this.call(api.joinLive, { params: { id } });
  giveRightsLeave = (id: string, body: z.input<typeof RightsLeaveBody>) =>
    this.call(api.giveRightsLeave, { params: { id }, body });
  giveSecondYes = (id: string, actId: string, isYes: boolean) =>
    this.call(api.giveSecondYes, { params: { id, actId }, body: { isYes } });
  lookAtOverride = (id: string, actId: string) => this.call(api.lookAtOverride, { params: { id, actId } });
  answerHandover = (id: string, answer: 'accept' | 'decline') =>
    this.call(api.answerHandover, { params: { id, answer } });

  setMyState = (body: z.input<typeof MyStateBody>) => this.call(api.setMyState, { body });
  notNow = (id: string) => this.call(api.notNow, { params: { id } });
  sayToEntry = (id: string, text: string) => this.call(api.sayToEntry, { params: { id }, body: { text } });
  publishKnownFault = (body: z.input<typeof KnownFaultBody>) => this.call(api.publishKnownFault, { body });
  endKnownFault = (id: string) => this.call(api.endKnownFault, { params: { id } });

  bookings = () => this.#all((cursor) => this.call(api.bookings, { query: { limit: MAX_PAGE, cursor } }));
  book = (body: z.input<typeof BookingBody>) => this.call(api.book, { body });
  moveBooking = (id: string, body: z.input<typeof MoveBookingBody>) =>
    this.call(api.moveBooking, { params: { id }, body });
  cancelBooking = (id: string, remark: string) => this.call(api.cancelBooking, { params: { id }, body: { remark } });

  devices = (words = '') =>
    this.#all((cursor) => this.call(api.devices, { query: { words, limit: MAX_PAGE, cursor } }));
  deviceVisits = (id: string) =>
    this.#all((cursor) => this.call(api.deviceVisits, { params: { id }, query: { limit: MAX_PAGE, cursor } }));
  forgetDevice = (id: string) => this.call(api.forgetDevice, { params: { id } });
  tellStep = (step: RestartStep) => this.call(api.tellStep, { body: { step } });
  keepDevice = (body: KeepDeviceBody) => this.call(api.keepDevice, { body });

  desk = () => this.call(api.desk, {});
  /** However often it is tried, one program comes in once by the same code or link. */
  join = (body: z.input<typeof JoinBody>) => this.call(api.join, { body: { tryId: this.#tryId, ...body } });
  door = () => this.call(api.door, {});
  /** A path that fetches Doorstep for this session; its token joins once. */
  doorDownload = () => this.call(api.doorDownload, {});
  doorLive = () => this.call(api.doorLive, {});
  receipt = (language?: Language) => this.call(api.receipt, { query: { language } });
  request = (body: z.input<typeof RequestBody>) => this.call(api.request, { body });
  entry = (token: string) => this.call(api.entry, { body: { token } });
  sayInQueue = (token: string, text: string) => this.call(api.sayInQueue, { body: { token, text } });
  happensToo = (id: string, who: { name: string; address: string }) =>
    this.call(api.happensToo, { params: { id }, body: who });
  leaveQueue = (token: string) => this.call(api.leaveQueue, { body: { token } });
}

function readJson(body: string): unknown {
  try {
    return body ? JSON.parse(body) : undefined;
  } catch (cause) {
    throw new Unreachable('what answered is not the service', { cause });
  }
}

/** A request that has no answer by then gets none: a router may have forgotten it. */
export const REQUEST_MS = 20_000;

/** For browsers, and for Node programs that live long enough not to mind its start. */
export const fetchExchange =
  (base = ''): HttpExchange =>
  async (method, path, headers, body) => {
    const answer = await fetch(base + path, {
      method,
      headers,
      signal: AbortSignal.timeout(REQUEST_MS),
      credentials: 'same-origin',
      ...(body === undefined ? {} : { body }),
    });
    return { status: answer.status, body: await answer.text() };
  };
