import { z } from 'zod';
import { CallerQuestion, CallersFound } from '../caller-schemas.ts';
import { operation, PageQuery, pageOf } from '../operation.ts';
import {
  BookingBody,
  BookingView,
  CancelBookingBody,
  DeviceView,
  DeviceVisitView,
  KnownFaultBody,
  KnownFaultView,
  MoveBookingBody,
  MyState,
  MyStateBody,
} from '../rest-schemas.ts';

const One = z.object({ id: z.uuid() });

export const myState = operation({
  id: 'getOwnState',
  tag: 'Queue',
  method: 'GET',
  path: '/me/state',
  who: 'technician',
  answer: MyState,
});
export const setMyState = operation({
  id: 'setOwnState',
  tag: 'Queue',
  method: 'PUT',
  path: '/me/state',
  who: 'technician',
  body: MyStateBody,
  answer: MyState,
  old: { method: 'POST' },
});
export const notNow = operation({
  id: 'passOfferOn',
  tag: 'Queue',
  method: 'POST',
  path: '/queue/{id}/not-now',
  who: 'technician',
  params: One,
});
export const sayToEntry = operation({
  id: 'writeToWaitingPerson',
  tag: 'Queue',
  method: 'POST',
  path: '/queue/{id}/messages',
  who: 'technician',
  params: One,
  body: z.strictObject({ text: z.string().trim().min(1).max(2000) }),
  old: { path: '/queue/{id}/say' },
});

export const findCallers = operation({
  id: 'findCallers',
  tag: 'Callers',
  method: 'POST',
  path: '/callers/find',
  who: 'technician',
  body: CallerQuestion,
  answer: CallersFound,
  old: 'none',
});

export const knownFaults = operation({
  id: 'listKnownFaults',
  tag: 'Known faults',
  method: 'GET',
  path: '/known-faults',
  who: 'technician',
  query: PageQuery.extend({ topic: z.string().max(80).optional() }),
  answer: pageOf(KnownFaultView),
});
export const publishKnownFault = operation({
  id: 'publishKnownFault',
  tag: 'Known faults',
  method: 'POST',
  path: '/known-faults',
  who: 'technician',
  body: KnownFaultBody,
  answer: KnownFaultView,
  status: 201,
  isOnce: true,
});
export const endKnownFault = operation({
  id: 'endKnownFault',
  tag: 'Known faults',
  method: 'POST',
  path: '/known-faults/{id}/end',
  who: 'technician',
  params: One,
});

export const bookings = operation({
  id: 'listBookings',
  tag: 'Bookings',
  method: 'GET',
  path: '/bookings',
  who: 'technician',
  query: PageQuery.extend({
    from: z.iso.datetime({ offset: true }).optional(),
    to: z.iso.datetime({ offset: true }).optional(),
  }),
  answer: pageOf(BookingView),
});
export const booking = operation({
  id: 'getBooking',
  tag: 'Bookings',
  method: 'GET',
  path: '/bookings/{id}',
  who: 'technician',
  params: One,
  answer: BookingView,
  version: 'told',
  old: 'none',
});
export const book = operation({
  id: 'makeBooking',
  tag: 'Bookings',
  method: 'POST',
  path: '/bookings',
  who: 'technician',
  body: BookingBody,
  answer: BookingView,
  status: 201,
  isOnce: true,
});
export const moveBooking = operation({
  id: 'moveBooking',
  tag: 'Bookings',
  method: 'PUT',
  path: '/bookings/{id}/time',
  who: 'technician',
  params: One,
  body: MoveBookingBody,
  answer: BookingView,
  version: 'demanded',
  old: { method: 'POST', path: '/bookings/{id}/move' },
});
export const cancelBooking = operation({
  id: 'cancelBooking',
  tag: 'Bookings',
  method: 'POST',
  path: '/bookings/{id}/cancellation',
  who: 'technician',
  params: One,
  body: CancelBookingBody,
  answer: BookingView,
  version: 'demanded',
  old: { path: '/bookings/{id}/cancel' },
});
export const bookingCalendar = operation({
  id: 'getBookingCalendarEntry',
  tag: 'Bookings',
  method: 'GET',
  path: '/bookings/{id}/calendar',
  who: 'technician',
  params: One,
  file: 'text/calendar',
});

export const devices = operation({
  id: 'listDevices',
  tag: 'Devices',
  method: 'GET',
  path: '/devices',
  who: 'technician',
  query: PageQuery.extend({
    words: z.string().max(100).default(''),
    state: DeviceView.shape.state.optional(),
  }),
  answer: pageOf(DeviceView),
});
export const deviceVisits = operation({
  id: 'listDeviceVisits',
  tag: 'Devices',
  method: 'GET',
  path: '/devices/{id}/visits',
  who: 'technician',
  params: One,
  query: PageQuery,
  answer: pageOf(DeviceVisitView),
});
export const forgetDevice = operation({
  id: 'forgetDevice',
  tag: 'Devices',
  method: 'DELETE',
  path: '/devices/{id}',
  who: 'technician',
  params: One,
  old: { method: 'POST', path: '/devices/{id}/forget' },
});
