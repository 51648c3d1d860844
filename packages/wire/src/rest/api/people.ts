import { Preferences } from '@porch/core';
import { z } from 'zod';
import { operation, PageQuery, pageOf } from '../operation.ts';
import { EndSignInsBody, PorchView, SignedIn, SignInBody, SignInView, TechnicianView } from '../rest-schemas.ts';
import { TicketView } from '../ticket-view.ts';

export const signIn = operation({
  id: 'signIn',
  tag: 'People',
  method: 'POST',
  path: '/sign-ins',
  who: 'anybody',
  body: SignInBody,
  answer: SignedIn,
  status: 201,
  old: { path: '/sign-in' },
});
export const signOut = operation({
  id: 'signOut',
  tag: 'People',
  method: 'DELETE',
  path: '/sign-ins/mine',
  who: 'anybody',
  old: { method: 'POST', path: '/sign-out' },
});
export const me = operation({
  id: 'getMe',
  tag: 'People',
  method: 'GET',
  path: '/me',
  who: 'technician',
  answer: TechnicianView,
});
export const preferences = operation({
  id: 'getPreferences',
  tag: 'People',
  method: 'GET',
  path: '/me/preferences',
  who: 'technician',
  answer: Preferences,
});
export const setPreferences = operation({
  id: 'setPreferences',
  tag: 'People',
  method: 'PUT',
  path: '/me/preferences',
  who: 'technician',
  body: Preferences,
  answer: Preferences,
});
export const signIns = operation({
  id: 'listSignIns',
  tag: 'People',
  method: 'GET',
  path: '/me/sign-ins',
  who: 'technician',
  query: PageQuery,
  answer: pageOf(SignInView),
});
export const endSignIns = operation({
  id: 'endSignIns',
  tag: 'People',
  method: 'POST',
  path: '/me/sign-ins/end',
  who: 'technician',
  body: EndSignInsBody,
  answer: z.object({ ended: z.number() }),
});
export const colleagues = operation({
  id: 'listTechnicians',
  tag: 'People',
  method: 'GET',
  path: '/technicians',
  who: 'technician',
  query: PageQuery.extend({
    team: z.string().max(80).optional(),
    role: TechnicianView.shape.role.optional(),
    present: z.enum(['yes', 'no']).optional(),
  }),
  answer: pageOf(TechnicianView),
});

export const porch = operation({
  id: 'getPorch',
  tag: 'Porch',
  method: 'GET',
  path: '/porch',
  who: 'technician',
  answer: PorchView,
});
export const porchChanges = operation({
  id: 'followPorch',
  tag: 'Porch',
  method: 'GET',
  path: '/porch/changes',
  who: 'technician',
  file: 'text/event-stream',
});
export const tickets = operation({
  id: 'listTickets',
  tag: 'Tickets',
  method: 'GET',
  path: '/tickets',
  who: 'technician',
  query: PageQuery.extend({ words: z.string().max(200).default('') }),
  answer: pageOf(TicketView),
});
