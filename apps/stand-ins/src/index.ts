export * from './tickets/ticket-app.ts';
export * from './tickets/ticket-data.ts';
