export * from './format.ts';
export * from './frame-cutter.ts';
export * from './playout.ts';
export * from './silence-gate.ts';
export * from './sound-rate.ts';
