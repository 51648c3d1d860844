export { readHidden } from './hidden.ts';
export { csvOf } from './csv.ts';
export { forTerminal, tableOf } from './table.ts';
