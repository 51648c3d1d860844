import { LedgerView } from '../ledger-view.ts';
import { z } from 'zod';
import { operation, PageQuery, pageOf } from '../operation.ts';
import {
  CodeView,
  ConnectionPass,
  EraseBody,
  Invited,
  InvitationView,
  InviteBody,
  MessagePreview,
  SessionView,
  StartBody,
  Started,
} from '../rest-schemas.ts';
import { SessionTelephone } from '../caller-schemas.ts';
import { KeepScreenshotBody, KeptScreenshot } from '../screenshot-schemas.ts';
import { SessionPage, SessionSearch } from '../session-search.ts';

const OneSession = z.object({ id: z.uuid() });
const OneInvitation = z.object({ id: z.uuid(), invitationId: z.uuid() });
const OneScreenshot = z.object({ id: z.uuid(), screenshotId: z.uuid() });

export const sessions = operation({
  id: 'listSessions',
  tag: 'Sessions',
  method: 'GET',
  path: '/sessions',
  who: 'technician',
  query: SessionSearch,
  answer: SessionPage,
  old: { path: '/sessions/find', isPaged: true },
});
export const startSession = operation({
  id: 'startSession',
  tag: 'Sessions',
  method: 'POST',
  path: '/sessions',
  who: 'technician',
  body: StartBody,
  answer: Started,
  status: 201,
  isOnce: true,
});
export const session = operation({
  id: 'getSession',
  tag: 'Sessions',
  method: 'GET',
  path: '/sessions/{id}',
  who: 'technician',
  params: OneSession,
  answer: SessionView,
  version: 'told',
});
export const sessionTelephone = operation({
  id: 'getSessionTelephone',
  tag: 'Callers',
  method: 'GET',
  path: '/sessions/{id}/telephone',
  who: 'technician',
  params: OneSession,
  answer: SessionTelephone,
  old: 'none',
});
export const draft = operation({
  id: 'getNoteDraft',
  tag: 'Sessions',
  method: 'GET',
  path: '/sessions/{id}/draft',
  who: 'technician',
  params: OneSession,
  answer: z.object({ note: z.string(), minutes: z.number() }),
});
export const ledger = operation({
  id: 'getLedger',
  tag: 'Sessions',
  method: 'GET',
  path: '/sessions/{id}/ledger',
  who: 'technician',
  params: OneSession,
  answer: LedgerView,
});
export const eraseSession = operation({
  id: 'eraseSession',
  tag: 'Sessions',
  method: 'POST',
  path: '/sessions/{id}/erasure',
  who: 'technician',
  params: OneSession,
  body: EraseBody,
  answer: z.object({ erased: z.number() }),
  old: { path: '/sessions/{id}/erase' },
});
export const joinLive = operation({
  id: 'makeConnectionPass',
  tag: 'Sessions',
  method: 'POST',
  path: '/sessions/{id}/connection-passes',
  who: 'technician',
  params: OneSession,
  answer: ConnectionPass,
  status: 201,
  old: { path: '/sessions/{id}/live' },
});
export const answerHandover = operation({
  id: 'answerHandover',
  tag: 'Sessions',
  method: 'POST',
  path: '/handovers/{id}/{answer}',
  who: 'technician',
  params: z.object({ id: z.uuid(), answer: z.enum(['accept', 'decline']) }),
  answer: z.object({ sessionId: z.string() }),
});

export const newCode = operation({
  id: 'makeCode',
  tag: 'Invitations',
  method: 'POST',
  path: '/sessions/{id}/code',
  who: 'technician',
  params: OneSession,
  answer: CodeView,
  status: 201,
});
export const withdrawCode = operation({
  id: 'withdrawCode',
  tag: 'Invitations',
  method: 'DELETE',
  path: '/sessions/{id}/code',
  who: 'technician',
  params: OneSession,
  old: { method: 'POST', path: '/sessions/{id}/code/withdraw' },
});
export const invitations = operation({
  id: 'listInvitations',
  tag: 'Invitations',
  method: 'GET',
  path: '/sessions/{id}/invitations',
  who: 'technician',
  params: OneSession,
  query: PageQuery.extend({
    delivery: InvitationView.shape.delivery.optional(),
  }),
  answer: pageOf(InvitationView),
});
export const invite = operation({
  id: 'makeInvitation',
  tag: 'Invitations',
  method: 'POST',
  path: '/sessions/{id}/invitations',
  who: 'technician',
  params: OneSession,
  body: InviteBody,
  answer: Invited,
  status: 201,
  isOnce: true,
});
export const previewInvitation = operation({
  id: 'previewInvitation',
  tag: 'Invitations',
  method: 'POST',
  path: '/sessions/{id}/invitations/preview',
  who: 'technician',
  params: OneSession,
  body: InviteBody,
  answer: MessagePreview,
});
export const withdrawInvitation = operation({
  id: 'withdrawInvitation',
  tag: 'Invitations',
  method: 'DELETE',
  path: '/sessions/{id}/invitations/{invitationId}',
  who: 'technician',
  params: OneInvitation,
  old: { method: 'POST', path: '/sessions/{id}/invitations/{invitationId}/withdraw' },
});
export const invitationLink = operation({
  id: 'getInvitationLink',
  tag: 'Invitations',
  method: 'GET',
  path: '/sessions/{id}/invitations/{invitationId}/link',
  who: 'technician',
  params: OneInvitation,
  answer: z.object({ link: z.string() }),
});
const invitationFile = (id: string, name: string, file: string) =>
  operation({
    id,
    tag: 'Invitations',
    method: 'GET',
    path: `/sessions/{id}/invitations/{invitationId}/${name}`,
    who: 'technician',
    params: OneInvitation,
    file,
  });
export const invitationQr = invitationFile('getInvitationPicture', 'qr.png', 'image/png');
export const invitationJoinFile = invitationFile('getInvitationFile', 'join-file', 'text/html');
export const invitationCalendar = invitationFile('getInvitationCalendarEntry', 'calendar', 'text/calendar');

export const keepScreenshot = operation({
  id: 'keepScreenshot',
  tag: 'Screenshots',
  method: 'POST',
  path: '/sessions/{id}/screenshots',
  who: 'technician',
  params: OneSession,
  body: KeepScreenshotBody,
  answer: z.array(KeptScreenshot),
});
export const screenshots = operation({
  id: 'listScreenshots',
  tag: 'Screenshots',
  method: 'GET',
  path: '/sessions/{id}/screenshots',
  who: 'technician',
  params: OneSession,
  query: PageQuery,
  answer: pageOf(KeptScreenshot),
});
export const screenshot = operation({
  id: 'getScreenshot',
  tag: 'Screenshots',
  method: 'GET',
  path: '/sessions/{id}/screenshots/{screenshotId}',
  who: 'technician',
  params: OneScreenshot,
  file: 'image/png',
});
