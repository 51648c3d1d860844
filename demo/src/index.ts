export * from './marrowick.ts';
export * from './postgres.ts';
export * from './processes.ts';
export * from './scripted-customer.ts';
export * from './person-at-desk.ts';
export * from './x-desktop.ts';
export { findWindow, waitForWindow } from './x-windows.ts';
export * from './post-settings.ts';
