import { api } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { personOf } from '../../auth/guard.ts';
import { pageOfList } from '../../http/paging.ts';
import { serve } from '../../http/serve.ts';
import { bookingVersion, type BookingDesk } from './booking-desk.ts';

export interface BookingRoutesParts {
  readonly bookings: BookingDesk;
  changed(): void;
}

/** Bookings for technicians. */
export const bookingRoutes =
  ({ bookings, changed }: BookingRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    serve(app, api.bookings, { may: 'see bookings' }, async ({ query, request }) => {
      const [fromMs, toMs] = [Date.parse(query.from ?? ''), Date.parse(query.to ?? '')];
      const wanted = (await bookings.of(personOf(request))).filter(
        // What was not said is no number, and nothing is less than that.
        ({ startsAtMs }) => !(startsAtMs < fromMs) && !(startsAtMs >= toMs),
      );
      return pageOfList(wanted, query, 'bookings', (one) => [one.startsAtMs, one.id]);
    });
    serve(app, api.booking, { may: 'see bookings', versionOf: bookingVersion }, ({ params, request }) =>
      bookings.one(personOf(request), params.id),
    );
    serve(app, api.book, { may: 'book' }, async ({ body, request }) => {
      const made = await bookings.book(personOf(request), body);
      changed();
      return made;
    });
    serve(
      app,
      api.moveBooking,
      { may: 'change a booking', versionOf: bookingVersion },
      async ({ params, body, request, seen }) => {
        const moved = await bookings.move(personOf(request), params.id, body, seen);
        changed();
        return moved;
      },
    );
    serve(
      app,
      api.cancelBooking,
      { may: 'change a booking', versionOf: bookingVersion },
      async ({ params, body, request, seen }) => {
        const cancelled = await bookings.cancel(personOf(request), params.id, body.remark, seen);
        changed();
        return cancelled;
      },
    );
    serve(app, api.bookingCalendar, { may: 'see bookings' }, async ({ params, request, reply }) => {
      reply.header('content-disposition', 'attachment; filename="booking.ics"');
      return bookings.calendar(personOf(request), params.id);
    });
  };
