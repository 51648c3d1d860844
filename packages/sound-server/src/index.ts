export * from './opus.ts';
export * from './programs.ts';
export * from './sound-server.ts';
export * from './voice.ts';
export * from './streams.ts';
