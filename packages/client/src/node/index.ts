export * from './ciphers.ts';
export * from './codecs.ts';
export * from './disk-files.ts';
export * from './disk-folders.ts';
export * from './free-names.ts';
export * from './piece-sink.ts';
