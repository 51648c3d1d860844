export * from './ciphers.ts';
export * from './codecs.ts';
