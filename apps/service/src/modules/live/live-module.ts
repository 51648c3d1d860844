import type { PolicyFor } from '@porch/core';
import { api, realClock, realRandomness } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import type { Kit } from '../../module/kit.ts';
import { serve } from '../../http/serve.ts';
import { defineModule } from '../../module/service-module.ts';
import type { DoorPasses } from '../passes/door-passes.ts';
import type { SessionBook } from '../sessions/session-book.ts';
import type { SessionDesk } from '../sessions/session-desk.ts';
import type { SessionLists } from '../sessions/session-lists.ts';
import { AbandonedSessions } from './abandoned-sessions.ts';
import { ConnectionPasses } from './connection-passes.ts';
import { LiveGateway } from './live-gateway.ts';

const ABANDONED_PAUSE_MS = 2_000;

interface Needs extends Pick<Kit, 'log' | 'background' | 'changes' | 'ownerEpoch' | 'liveUrl'> {
  readonly policyFor: PolicyFor;
  readonly book: SessionBook;
  readonly desk: SessionDesk;
  readonly lists: SessionLists;
  readonly passes: DoorPasses;
}

const liveRoutes =
  (desk: SessionDesk, connectionPasses: ConnectionPasses, liveUrl: Kit['liveUrl']): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.joinLive, { may: 'join a session' }, async ({ params, request }) => {
      const technician = personOf(request);
      const { id } = await desk.read(technician, params.id, 'join a session');
      return connectionPasses.issue(
        {
          kind: 'technician',
          sessionId: id,
          technicianId: technician.id,
          name: technician.name,
          signInId: request.signedIn?.signInId ?? '',
        },
        liveUrl(request),
      );
    });
  };

/** Who is connected to which session now, and what they say to each other. */
export const liveModule = defineModule({
  name: 'live',
  build: ({ log, background, policyFor, changes, ownerEpoch, liveUrl, book, desk, lists, passes }: Needs) => {
    const clock = realClock;
    const connectionPasses = new ConnectionPasses(clock);
    const live = new LiveGateway({
      clock,
      random: realRandomness,
      book,
      connectionPasses,
      log,
      background,
      ownerEpoch,
      onChanged: changes.of('sessions', 'states'),
      graceMs: () => policyFor().graceMs,
      restartLateMs: () => policyFor().restartLateMs,
      entered: (tx, passHash, participantId) => passes.entered(tx, passHash, participantId),
    });
    const abandoned = new AbandonedSessions({
      book,
      lists,
      policyFor,
      clock,
      isHere: (id) => live.isOpen(id),
      hasTechnician: (id) => live.hasTechnician(id),
    });
    return {
      gives: { connectionPasses },
      routes: [{ plugin: liveRoutes(desk, connectionPasses, liveUrl) }],
      erased: (sessionId) => live.forget(sessionId),
      opened: live,
      upgrades: { '/live': (request, socket, head, address) => live.handleUpgrade(request, socket, head, address) },
      repeated: [
        { what: 'ending sessions that nobody is in', pauseMs: ABANDONED_PAUSE_MS, work: () => abandoned.end() },
      ],
      figures: [
        { name: 'porch_live_sockets', help: 'Live connections, strangers included', read: () => live.sockets },
        {
          name: 'porch_open_sessions',
          help: 'Sessions that this process has in memory for somebody',
          read: () => live.openSessions,
        },
      ],
      close: () => live.close(),
    };
  },
});
