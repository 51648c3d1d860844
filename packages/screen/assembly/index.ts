export * from './pixels';
export * from './boxes';
export * from './moves';
