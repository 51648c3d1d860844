import type { Language } from '@porch/core';
import {
  AppError,
  doWork,
  type Work,
  WorkNeeded,
  type BookingBody,
  BookingView,
  ConnectionPass,
  DeviceView,
  DeviceVisitView,
  DoorView,
  EntryStatus,
  ErrorBody,
  InvitationView,
  type InviteBody,
  Invited,
  isErrorCode,
  randomId,
  realRandomness,
  Joined,
  type KeepDeviceBody,
  type KeepScreenshotBody,
  KeptScreenshot,
  KeptDevice,
  LedgerView,
  MessagePreview,
  type MoveBookingBody,
  MyState,
  type MyStateBody,
  type KnownFaultBody,
  KnownFaultView,
  PorchView,
  QueueEntryView,
  ReceiptView,
  type RequestBody,
  SessionPage,
  type SessionSearch,
  SessionView,
  SignedIn,
  SignInView,
  Started,
  TechnicianView,
  TicketView,
  CodeView,
  DeskView,
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

const none = z.unknown();

/** Every REST call of the service, checked against the wire's schemas on arrival. */
export class RestClient {
  readonly #exchange: HttpExchange;
  token: string | undefined;

  constructor(exchange: HttpExchange, token?: string) {
    this.#exchange = exchange;
    this.token = token;
  }

  async #call<T>(schema: z.ZodType<T>, method: string, path: string, body?: unknown): Promise<T> {
    const headers: Record<string, string> = { accept: 'application/json' };
    if (this.token) headers['authorization'] = `Bearer ${this.token}`;
    // A header that a plain form cannot send: the service asks for it wherever a cookie is the key.
    if (method !== 'GET') headers['x-porch'] = '1';
    if (body !== undefined) headers['content-type'] = 'application/json';
    let answer: HttpAnswer;
    try {
      answer = await this.#exchange(
        method,
        `/api${path}`,
        headers,
        body === undefined ? undefined : JSON.stringify(body),
      );
    } catch (cause) {
      throw new Unreachable('the service does not answer', { cause });
    }
    let value: unknown;
    try {
      value = answer.body ? JSON.parse(answer.body) : undefined;
    } catch (cause) {
      throw new Unreachable('what answered is not the service', { cause });
    }
    if (answer.status < 400) return schema.parse(value);
    const error = ErrorBody.safeParse(value);
    if (error.success && isErrorCode(error.data.code)) throw new AppError(error.data.code, error.data.details ?? {});
    throw new Unreachable(`the service answered with status ${answer.status}`);
  }

  /** Does the work that a service asks for when somebody guesses at this address; that takes seconds at most. */
  signIn = async (email: string, password: string, keep: 'cookie' | 'token') => {
    const trySo = (work?: Work) =>
      this.#call(SignedIn, 'POST', '/sign-in', { email, password, keep, ...(work ? { work } : {}) });
    try {
      return await trySo();
    } catch (error) {
      if (!(error instanceof AppError && error.code === 'WORK_NEEDED')) throw error;
      const { challenge, bits } = WorkNeeded.parse(error.details);
      return trySo(await doWork(challenge, bits));
    }
  };
  signIns = () => this.#call(z.array(SignInView), 'GET', '/me/sign-ins');
  endSignIns = (ids: string[] | 'all-others') =>
    this.#call(z.object({ ended: z.number() }), 'POST', '/me/sign-ins/end', { ids });
  signOut = () => this.#call(none, 'POST', '/sign-out', {});
  me = () => this.#call(TechnicianView, 'GET', '/me');
  colleagues = () => this.#call(z.array(TechnicianView), 'GET', '/technicians');
  porch = () => this.#call(PorchView, 'GET', '/porch');
  tickets = (words: string) => this.#call(z.array(TicketView), 'GET', `/tickets?words=${encodeURIComponent(words)}`);
  start = (body: { ticketRef?: string; queueEntryId?: string; deviceId?: string; sessionId?: string }) =>
    this.#call(Started, 'POST', '/sessions', { sessionId: randomId(realRandomness), ...body });
  /** Of those that the technician may read, page by page. */
  findSessions = (search: { [K in keyof SessionSearch]?: SessionSearch[K] | undefined } = {}): Promise<SessionPage> => {
    const query = new URLSearchParams();
    for (const [name, value] of Object.entries(search)) if (value !== undefined) query.set(name, String(value));
    return this.#call(SessionPage, 'GET', `/sessions/find?${query.toString()}`);
  };
  /** The first page. */
  sessions = async (words = ''): Promise<SessionView[]> => (await this.findSessions({ words })).items;
  session = (id: string) => this.#call(SessionView, 'GET', `/sessions/${id}`);
  draft = (id: string) =>
    this.#call(z.object({ note: z.string(), minutes: z.number() }), 'GET', `/sessions/${id}/draft`);
  ledger = (id: string) => this.#call(LedgerView, 'GET', `/sessions/${id}/ledger`);
  keepScreenshot = (sessionId: string, body: KeepScreenshotBody) =>
    this.#call(z.array(KeptScreenshot), 'POST', `/sessions/${sessionId}/screenshots`, body);
  screenshots = (sessionId: string) => this.#call(z.array(KeptScreenshot), 'GET', `/sessions/${sessionId}/screenshots`);
  erase = (id: string, rule: string) =>
    this.#call(z.object({ erased: z.number() }), 'POST', `/sessions/${id}/erase`, { rule });
  newCode = (id: string) => this.#call(CodeView, 'POST', `/sessions/${id}/code`, {});
  withdrawCode = (id: string) => this.#call(none, 'POST', `/sessions/${id}/code/withdraw`, {});
  invitations = (id: string) => this.#call(z.array(InvitationView), 'GET', `/sessions/${id}/invitations`);
  invite = (id: string, body: z.input<typeof InviteBody>) =>
    this.#call(Invited, 'POST', `/sessions/${id}/invitations`, body);
  previewInvitation = (id: string, body: z.input<typeof InviteBody>) =>
    this.#call(MessagePreview, 'POST', `/sessions/${id}/invitations/preview`, body);
  withdrawInvitation = (id: string, invitationId: string) =>
    this.#call(none, 'POST', `/sessions/${id}/invitations/${invitationId}/withdraw`, {});
  invitationLink = (id: string, invitationId: string) =>
    this.#call(z.object({ link: z.string() }), 'GET', `/sessions/${id}/invitations/${invitationId}/link`);
  /** What a browser or a program fetches as it is: the QR picture, the calendar entry, the join file. */
  invitationFilePath = (id: string, invitationId: string, file: 'qr.png' | 'calendar' | 'join-file') =>
    `/api/sessions/${id}/invitations/${invitationId}/${file}`;
  postLink = (id: string) => this.invite(id, { way: 'ticket-comment' });
  livePass = (id: string) => this.#call(ConnectionPass, 'POST', `/sessions/${id}/live`, {});
  answerHandover = (id: string, answer: 'accept' | 'decline') =>
    this.#call(z.object({ sessionId: z.string() }), 'POST', `/handovers/${id}/${answer}`, {});

  setMyState = (body: z.input<typeof MyStateBody>) => this.#call(MyState, 'POST', '/me/state', body);
  notNow = (entryId: string) => this.#call(none, 'POST', `/queue/${entryId}/not-now`, {});
  sayToEntry = (entryId: string, text: string) => this.#call(none, 'POST', `/queue/${entryId}/say`, { text });
  publishKnownFault = (body: z.input<typeof KnownFaultBody>) =>
    this.#call(KnownFaultView, 'POST', '/known-faults', body);
  endKnownFault = (id: string) => this.#call(none, 'POST', `/known-faults/${id}/end`, {});

  bookings = () => this.#call(z.array(BookingView), 'GET', '/bookings');
  book = (body: z.input<typeof BookingBody>) => this.#call(BookingView, 'POST', '/bookings', body);
  moveBooking = (id: string, body: z.input<typeof MoveBookingBody>) =>
    this.#call(BookingView, 'POST', `/bookings/${id}/move`, body);
  cancelBooking = (id: string, remark: string) => this.#call(BookingView, 'POST', `/bookings/${id}/cancel`, { remark });

  devices = (words = '') => this.#call(z.array(DeviceView), 'GET', `/devices?words=${encodeURIComponent(words)}`);
  deviceVisits = (id: string) => this.#call(z.array(DeviceVisitView), 'GET', `/devices/${id}/visits`);
  forgetDevice = (id: string) => this.#call(none, 'POST', `/devices/${id}/forget`, {});
  keepDevice = (body: KeepDeviceBody) => this.#call(KeptDevice, 'POST', '/door/device', body);

  desk = () => this.#call(DeskView, 'GET', '/door');
  join = (body: { code?: string; secondNumber?: string; link?: string; as: 'page' | 'doorstep' }) =>
    this.#call(Joined, 'POST', '/door/join', body);
  door = () => this.#call(DoorView, 'GET', '/door/session');
  /** A path that fetches Doorstep for this session; its token joins once. */
  doorDownload = () => this.#call(z.object({ path: z.string() }), 'POST', '/door/download', {});
  doorLive = () => this.#call(ConnectionPass, 'POST', '/door/live', {});
  receipt = (language?: Language) =>
    this.#call(ReceiptView, 'GET', `/door/receipt${language ? `?language=${language}` : ''}`);
  request = (body: z.input<typeof RequestBody>) => this.#call(EntryStatus, 'POST', '/door/requests', body);
  entry = (token: string) => this.#call(EntryStatus, 'POST', '/door/requests/mine', { token });
  sayInQueue = (token: string, text: string) => this.#call(EntryStatus, 'POST', '/door/requests/say', { token, text });
  happensToo = (id: string, who: { name: string; address: string }) =>
    this.#call(KnownFaultView, 'POST', `/door/known-faults/${id}/happens-to-me`, who);
  leaveQueue = (token: string) =>
    this.#call(z.object({ entry: QueueEntryView }), 'POST', '/door/requests/leave', { token });
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
