import { technicianRoutes } from './technician-routes.ts';
import { bookingRoutes } from '../bookings/booking-routes.ts';
import { deviceRoutes } from '../devices/device-routes.ts';
import { queueRoutes } from '../queue/queue-routes.ts';
import { invitationRoutes } from '../invitations/invitation-routes.ts';
import { screenshotRoutes } from '../modules/screenshot/screenshot-routes.ts';

/** Everything that technicians call. */
export const deskRoutes = [
  technicianRoutes,
  bookingRoutes,
  deviceRoutes,
  queueRoutes,
  invitationRoutes,
  screenshotRoutes,
] as const;
