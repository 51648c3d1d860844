export * from './house.ts';
export * from './seeds.ts';
export * from './until.ts';
