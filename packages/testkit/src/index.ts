export * from './house.ts';
export * from './pages.ts';
export * from './seeds.ts';
export * from './until.ts';
export * from './look.ts';
export * from './painted-desktop.ts';
export * from './slow-line.ts';
export * from './screen-dump.ts';
