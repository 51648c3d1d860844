export { PLACE_IT_WRITES } from './camera/scene.ts';
export * from './tickets/ticket-app.ts';
export * from './tickets/ticket-data.ts';
export type { KeptMail, MailMode } from './post/mail-server.ts';
export type { KeptText, TextMode } from './post/text-gateway.ts';
