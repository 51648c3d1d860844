import { BookingBody, BookingView, CancelBookingBody, MoveBookingBody } from '@porch/wire';
import type { FastifyPluginAsyncZod } from 'fastify-type-provider-zod';
import { z } from 'zod';
import type { Parts } from '../app.ts';
import { technicianOf } from '../auth/technician-of.ts';

const One = z.object({ id: z.uuid() });

/** Bookings for technicians. */
export const bookingRoutes: FastifyPluginAsyncZod<Parts> = async (app, { signIns, bookings, feed }) => {
  const me = technicianOf(signIns);

  app.get('/bookings', { schema: { response: { 200: z.array(BookingView) } } }, async (request) =>
    bookings.of(await me(request)),
  );
  app.post('/bookings', { schema: { body: BookingBody, response: { 200: BookingView } } }, async (request) => {
    const made = await bookings.book(await me(request), request.body);
    feed.changed();
    return made;
  });
  app.post(
    '/bookings/:id/move',
    { schema: { params: One, body: MoveBookingBody, response: { 200: BookingView } } },
    async (request) => {
      const moved = await bookings.move(await me(request), request.params.id, request.body);
      feed.changed();
      return moved;
    },
  );
  app.post(
    '/bookings/:id/cancel',
    { schema: { params: One, body: CancelBookingBody, response: { 200: BookingView } } },
    async (request) => {
      const cancelled = await bookings.cancel(await me(request), request.params.id, request.body.remark);
      feed.changed();
      return cancelled;
    },
  );
  app.get('/bookings/:id/calendar', { schema: { hide: true, params: One } }, async (request, reply) =>
    reply
      .type('text/calendar; charset=utf-8')
      .header('cache-control', 'no-store')
      .header('content-disposition', 'attachment; filename="booking.ics"')
      .send(await bookings.calendar(await me(request), request.params.id)),
  );
};
