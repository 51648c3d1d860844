export * from './drops.ts';
export * from './page-sources.ts';
