export * from './built/languages.ts';
export { counted } from './counted.ts';
export type { Piece } from './pieces.ts';
export { speechOf, type Speech } from './speech.ts';
export { firstSpoken, languageOf, spokenLanguage } from './spoken.ts';
