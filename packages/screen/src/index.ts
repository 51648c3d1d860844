export * from './cursor-codec.ts';
export * from './grid.ts';
export * from './inflate.ts';
export * from './relay-store.ts';
export * from './tile-source.ts';
export * from './update-codec.ts';
export * from './viewer-picture.ts';
