export * from './house.ts';
export * from './pages.ts';
export * from './seeds.ts';
export * from './until.ts';
