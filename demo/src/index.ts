export * from './marrowick.ts';
export * from './postgres.ts';
export * from './processes.ts';
export * from './scripted-customer.ts';
export * from './x-desktop.ts';
export * from './post-settings.ts';
