import { BookingBody, BookingView, CancelBookingBody, MoveBookingBody } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import { personOf } from '../../auth/guard.ts';
import type { BookingDesk } from './booking-desk.ts';

const One = z.object({ id: z.uuid() });

export interface BookingRoutesParts {
  readonly bookings: BookingDesk;
  changed(): void;
}

/** Bookings for technicians. */
export const bookingRoutes =
  ({ bookings, changed }: BookingRoutesParts): FastifyPluginAsyncZod =>
  async (app) => {
    app.get(
      '/bookings',
      { config: { may: 'see bookings' }, schema: { response: { 200: z.array(BookingView) } } },
      async (request) => bookings.of(personOf(request)),
    );
    app.post(
      '/bookings',
      { config: { may: 'book' }, schema: { body: BookingBody, response: { 200: BookingView } } },
      async (request) => {
        const made = await bookings.book(personOf(request), request.body);
        changed();
        return made;
      },
    );
    app.post(
      '/bookings/:id/move',
      {
        config: { may: 'change a booking' },
        schema: { params: One, body: MoveBookingBody, response: { 200: BookingView } },
      },
      async (request) => {
        const moved = await bookings.move(personOf(request), request.params.id, request.body);
        changed();
        return moved;
      },
    );
    app.post(
      '/bookings/:id/cancel',
      {
        config: { may: 'change a booking' },
        schema: { params: One, body: CancelBookingBody, response: { 200: BookingView } },
      },
      async (request) => {
        const cancelled = await bookings.cancel(personOf(request), request.params.id, request.body.remark);
        changed();
        return cancelled;
      },
    );
    app.get(
      '/bookings/:id/calendar',
      { config: { may: 'see bookings' }, schema: { hide: true, params: One } },
      async (request, reply) =>
        reply
          .type('text/calendar; charset=utf-8')
          .header('cache-control', 'no-store')
          .header('content-disposition', 'attachment; filename="booking.ics"')
          .send(await bookings.calendar(personOf(request), request.params.id)),
    );
  };
