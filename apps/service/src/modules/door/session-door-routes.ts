import { isOver } from '@porch/core';
import { api, AppError } from '@porch/wire';
import type { FastifyRequest } from 'fastify';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { serve } from '../../http/serve.ts';
import { readCookie, setCookie } from '../../http/cookies.ts';
import type { DeviceDesk } from '../devices/device-desk.ts';
import type { ConnectionPasses } from '../live/connection-passes.ts';
import { PASS_MS } from '../passes/door-passes.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import { passTokenOf } from './bearer.ts';
import { doorViewOf, type DoorViewParts } from './door-view.ts';
import { Joining, type JoiningParts } from './joining.ts';

export interface SessionDoorRoutesParts extends DoorViewParts, JoiningParts {
  readonly book: SessionBook;
  readonly connectionPasses: ConnectionPasses;
  readonly devices: DeviceDesk;
  changed(): void;
  liveUrl(request: FastifyRequest): string;
}

/** A customer's way into their session, and what is theirs there: the connection, and Doorstep. */
export const sessionDoorRoutes =
  (parts: SessionDoorRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    const { book, passes, connectionPasses, devices, shelf, changed, liveUrl } = parts;
    const joining = new Joining(parts);

    serve(app, api.join, {}, async ({ body, request, reply }) => {
      const cookie = readCookie(request, 'porch_door');
      const known = cookie ? await passes.findAny(cookie) : null;
      const { session, token } = await joining.join(body, { address: request.ip, pass: known });
      changed();
      if (body.as === 'page') setCookie(request, reply, 'porch_door', token, { maxAgeMs: PASS_MS });
      const door = await doorViewOf(session, await passes.find(token, 'look'), parts);
      return { door, token: body.as === 'page' ? '' : token };
    });
    serve(app, api.door, {}, async ({ request }) => {
      const pass = await passes.find(passTokenOf(request), 'look');
      return doorViewOf(await book.open(pass.sessionId), pass, parts);
    });
    serve(app, api.doorLive, {}, async ({ request }) => {
      const pass = await passes.find(passTokenOf(request), 'connect');
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
        liveUrl(request),
      );
    });
    serve(app, api.doorDownload, {}, async ({ request }) => {
      const pass = await passes.find(passTokenOf(request), 'download');
      if (!shelf) throw new AppError('NOT_FOUND');
      if (isOver((await book.open(pass.sessionId)).state)) throw new AppError('SESSION_ENDED');
      return { path: `/download/${await passes.download(pass)}` };
    });
    serve(app, api.keepDevice, {}, async ({ body, request }) => {
      // A page cannot keep a device: only the program that the customer answered at their desktop.
      const pass = await passes.find(passTokenOf(request), 'keepDevice');
      const { state } = await book.open(pass.sessionId);
      if (pass.participantId === null || pass.participantId !== state.holderId)
        throw new AppError('NOT_THE_CONSENT_HOLDER');
      const deviceId = await devices.keep(pass.sessionId, body);
      changed();
      return { deviceId };
    });
  };
