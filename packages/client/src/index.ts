export * from './file-transfers.ts';
export * from './input-lease.ts';
export * from './listeners.ts';
export * from './live-connection.ts';
export * from './rest-client.ts';
export * from './unless-unreadable.ts';
