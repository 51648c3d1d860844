import { isOver, Language, readCode, readSecondNumber, type Policy, purposeForCustomer } from '@porch/core';
import {
  AppError,
  ConnectionPass,
  DeskView,
  DoorView,
  EntryStatus,
  JoinBody,
  KnownFaultView,
  SayBody,
  Joined,
  KeepDeviceBody,
  KeptDevice,
  QueueEntryView,
  ReceiptView,
  RequestBody,
} from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { attemptLimits, type Try } from '../auth/attempts.ts';
import { inTransaction } from '../db/data-source.ts';
import type { DoorPassRow } from '../db/entities.ts';
import { readCookie, setCookie } from '../http/cookies.ts';
import { addressKey } from '../sockets/addresses.ts';
import { checkOpen, joinedBy, PASS_MS, type Origin } from './door-passes.ts';
import { asReadBy, receiptOf } from './receipt.ts';
import type { OpenSession } from '../sessions/session-book.ts';
import type { Parts } from '../parts.ts';

const QUEUE_NOW_MS = 500;
/** Every refused try at a code takes as long as this, so that the time tells nothing. */
const REFUSAL_MS = 150;
const isOutdated = (error: unknown): boolean =>
  error instanceof AppError && ['CODE_EXPIRED', 'CODE_USED', 'CODE_WITHDRAWN'].includes(error.code);
/** What a page that was never closed may ask at most; each look at the queue is one. */
const REQUESTS_PER_MINUTE = 20;

/** The customers' side over REST: codes and links, the request page, the receipt. */
export const doorRoutes: FastifyPluginAsyncZod<Parts> = async (app, parts) => {
  const { records, desk, codes, queue, attempts, connectionPasses, policy, feed } = parts;

  const tokenOf = (request: FastifyRequest): string => {
    const header = request.headers.authorization;
    if (header?.startsWith('Bearer ')) return header.slice(7);
    const cookie = readCookie(request, 'porch_door');
    if (!cookie || (request.method !== 'GET' && request.headers['x-porch'] !== '1'))
      throw new AppError('INVITATION_UNKNOWN');
    return cookie;
  };
  const passes = parts.passes;
  /** Whoever comes back to the session with the cookie they have is no new use of what they were asked in by. */
  async function isInAlready(request: FastifyRequest, sessionId: string, role: DoorPassRow['role']): Promise<boolean> {
    const cookie = readCookie(request, 'porch_door');
    const pass = cookie ? await passes.findAny(cookie) : null;
    return (
      pass?.sessionId === sessionId &&
      pass.role === role &&
      pass.participantId !== null &&
      pass.expiresAt.getTime() > Date.now()
    );
  }
  const signInOf = (request: FastifyRequest) => {
    const known = parts.directory?.whoIs(readCookie(request, 'porch_person'));
    return {
      canSignIn: parts.directory !== undefined,
      needsSignIn: parts.requestsNeedSignIn,
      ...(known ? { person: { name: known.name, address: known.address } } : {}),
    };
  };
  const doorView = async (session: OpenSession, pass: DoorPassRow): Promise<z.infer<typeof DoorView>> => ({
    ...seenAtTheDoor(session, policy, pass),
    ...(parts.shelf
      ? {
          download: {
            version: parts.shelf.manifest.version,
            publisher: parts.shelf.manifest.publisher,
            sizeBytes: parts.shelf.manifest.sizeBytes,
          },
        }
      : {}),
    doorstepLink:
      pass.role === 'customer-page' && !isOver(session.state)
        ? `${parts.publicUrl()}/join/${await passes.pageLink(pass)}`
        : '',
  });

  /** Many may look at once, and it is the same for all of them: worked out once for each change, and anew as time goes. */
  let known:
    { readonly atMs: number; readonly version: number; readonly now: ReturnType<typeof queue.now> } | undefined;
  const queueNow = () => {
    if (known?.version !== feed.version || Date.now() - known.atMs > QUEUE_NOW_MS) {
      const now = queue.now();
      known = { atMs: Date.now(), version: feed.version, now };
      // Whoever asks next tries anew.
      now.catch(() => (known = undefined));
    }
    return known.now;
  };
  app.get('/door', { schema: { response: { 200: DeskView } } }, async (request) => ({
    ...signInOf(request),
    deskName: policy.deskName,
    deskPhone: policy.deskPhone,
    timeZone: policy.timeZone,
    topics: [...parts.topics],
    knownFaults: await parts.knownFaults.open(),
    ...(await queueNow()),
  }));

  app.post('/door/join', { schema: { body: JoinBody, response: { 200: Joined } } }, async (request, reply) => {
    const { code, secondNumber, link, as } = request.body;
    const role = as === 'page' ? 'customer-page' : 'doorstep';
    const startedAt = performance.now();
    let origin: Origin;
    if (code !== undefined) {
      const reading = readCode(code);
      // The check digit: said at once, and no attempt is counted, since nobody learns anything by it.
      if (reading.kind !== 'code')
        throw new AppError(reading.kind === 'mistyped' ? 'CODE_MISTYPED' : 'INVALID_REQUEST');
      const second = secondNumber === undefined ? undefined : readSecondNumber(secondNumber);
      if (secondNumber !== undefined && second === undefined) throw new AppError('CODE_SECOND_NEEDED');
      const ofService = second === undefined ? attemptLimits.codeAlonePerService : attemptLimits.codePairPerService;
      const tries: Try[] = [
        [ofService, 'everybody'],
        [attemptLimits.codePerAddress, addressKey(request.ip)],
      ];
      await attempts.take(tries);
      try {
        const row = await inTransaction(records, async (tx) => {
          const used = await codes.use(tx, reading.digits, as, second);
          if (policy.isCodeSingleUse) await codes.withdraw(tx, used);
          return used;
        });
        const { sessionId, expiresAt } = row;
        origin = { sessionId, way: 'code', invitationId: null, parentHash: null, proof: null, expiresAt };
        await attempts.giveBack(tries);
      } catch (error) {
        // Whoever has a code that was right once is not guessing.
        if (isOutdated(error)) await attempts.giveBack(tries.slice(0, 1));
        await new Promise((resolve) => setTimeout(resolve, Math.max(0, REFUSAL_MS - (performance.now() - startedAt))));
        throw error;
      }
    } else if (link !== undefined) {
      const pass = await passes.findAny(link);
      if (pass?.role !== 'invitation') throw new AppError('INVITATION_UNKNOWN');
      if (pass.expiresAt.getTime() <= Date.now()) throw new AppError('INVITATION_EXPIRED');
      const isBack = await isInAlready(request, pass.sessionId, role);
      const { invitationId } = pass;
      // What a page made for its own Doorstep was counted when the page came in.
      const isCounted = invitationId !== null && pass.parentHash === null && !isBack;
      if (isCounted) await inTransaction(records, (tx) => desk.invitations.use(tx, invitationId));
      checkOpen(pass, isBack);
      await passes.useUp(pass);
      origin = joinedBy(pass);
    } else throw new AppError('INVALID_REQUEST');
    const session = await desk.book.open(origin.sessionId);
    if (isOver(session.state)) throw new AppError('SESSION_ENDED');
    const token = await passes.admit(origin, role);
    feed.changed();
    if (as === 'page') setCookie(request, reply, 'porch_door', token, { maxAgeMs: PASS_MS });
    return { door: await doorView(session, await passes.find(token, 'look')), token: as === 'page' ? '' : token };
  });
  app.get('/door/session', { schema: { response: { 200: DoorView } } }, async (request) => {
    const pass = await passes.find(tokenOf(request), 'look');
    return doorView(await desk.book.open(pass.sessionId), pass);
  });
  app.post('/door/live', { schema: { response: { 200: ConnectionPass } } }, async (request) => {
    const pass = await passes.find(tokenOf(request), 'connect');
    if (pass.role === 'invitation') throw new AppError('PASS_NOT_FOR_THIS');
    return connectionPasses.issue(
      {
        kind: 'customer',
        sessionId: pass.sessionId,
        part: pass.role === 'doorstep' ? 'doorstep' : 'page',
        way: pass.way,
        proof: pass.proof ?? undefined,
        passHash: pass.tokenHash,
      },
      parts.liveUrl(request),
    );
  });
  app.post('/door/download', { schema: { response: { 200: z.object({ path: z.string() }) } } }, async (request) => {
    const pass = await passes.find(tokenOf(request), 'download');
    if (!parts.shelf) throw new AppError('NOT_FOUND');
    if (isOver((await desk.book.open(pass.sessionId)).state)) throw new AppError('SESSION_ENDED');
    return { path: `/download/${await passes.download(pass)}` };
  });
  app.post('/door/device', { schema: { body: KeepDeviceBody, response: { 200: KeptDevice } } }, async (request) => {
    // A page cannot keep a device: only the program that the customer answered at their desktop.
    const pass = await passes.find(tokenOf(request), 'keepDevice');
    const { state } = await desk.book.open(pass.sessionId);
    if (pass.participantId === null || pass.participantId !== state.holderId)
      throw new AppError('NOT_THE_CONSENT_HOLDER');
    const deviceId = await parts.devices.keep(pass.sessionId, request.body);
    feed.changed();
    return { deviceId };
  });
  app.get(
    '/door/receipt',
    { schema: { querystring: z.object({ language: Language.optional() }), response: { 200: ReceiptView } } },
    async (request) => {
      const pass = await passes.find(tokenOf(request), 'copy');
      const session = await desk.book.open(pass.sessionId);
      const reader = {
        id: pass.participantId ?? '',
        part: pass.role === 'doorstep' ? ('doorstep' as const) : ('page' as const),
        proof: pass.proof ?? undefined,
      };
      return receiptOf(asReadBy(session, reader), policy, request.query.language ?? session.state.language);
    },
  );

  const limited = { rateLimit: { max: REQUESTS_PER_MINUTE, timeWindow: 60_000 } };
  app.post(
    '/door/requests',
    { config: limited, schema: { body: RequestBody, response: { 200: EntryStatus } } },
    async (request) => {
      const { person, needsSignIn } = signInOf(request);
      if (needsSignIn && !person) throw new AppError('DIRECTORY_NEEDED');
      // Whom the directory knows is who it says, whatever was typed.
      const status = await queue.ask({ ...request.body, ...person, isConfirmed: person !== undefined });
      feed.changed();
      return status;
    },
  );
  // In the body, not in the address: addresses are kept in histories and logs.
  app.post(
    '/door/requests/mine',
    { schema: { body: z.strictObject({ token: z.string().max(100) }), response: { 200: EntryStatus } } },
    async (request) => queue.status(request.body.token),
  );
  app.post('/door/requests/say', { schema: { body: SayBody, response: { 200: EntryStatus } } }, async (request) => {
    const { token, text } = request.body;
    await queue.sayAsCustomer(token, text);
    feed.changed();
    return queue.status(token);
  });
  app.post(
    '/door/known-faults/:id/happens-to-me',
    {
      config: limited,
      schema: {
        params: z.object({ id: z.uuid() }),
        body: z.strictObject({ name: z.string().trim().min(1).max(120), address: z.string().trim().max(200) }),
        response: { 200: KnownFaultView },
      },
    },
    async (request) => {
      const fault = await parts.knownFaults.happensToo(request.params.id, request.body);
      feed.changed();
      return fault;
    },
  );
  app.post(
    '/door/requests/leave',
    {
      schema: {
        body: z.strictObject({ token: z.string().max(100) }),
        response: { 200: z.object({ entry: QueueEntryView }) },
      },
    },
    async (request) => {
      const entry = await queue.leave(request.body.token);
      feed.changed();
      return { entry };
    },
  );
};

/** Who the customer is, is told to whoever showed that they are that person; a code or a link alone says who asks, and why. */
function seenAtTheDoor(
  { id, state }: OpenSession,
  policy: Policy,
  { proof }: DoorPassRow,
): Omit<z.infer<typeof DoorView>, 'doorstepLink'> {
  const isKnown = proof !== null;
  return {
    sessionId: id,
    technicianName: state.technicianName ?? '',
    deskName: policy.deskName,
    deskPhone: policy.deskPhone,
    ...(state.ticketRef ? { ticketRef: state.ticketRef } : {}),
    purpose: purposeForCustomer(state, state.language),
    behind: state.behind,
    language: state.language,
    customerName: isKnown ? (state.customerName ?? '') : '',
    customerAddress: isKnown ? (state.customerAddress ?? '') : '',
    phase: state.phase.name,
    noticeVersion: policy.noticeVersion,
    notice: { ...policy.notice },
    controlNeedsComparedWords: policy.controlNeedsComparedWords,
    standingConsentDays: policy.standingConsentDays,
    awayAfterMs: policy.awayAfterMs,
  };
}
