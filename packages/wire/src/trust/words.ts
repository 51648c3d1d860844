import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import type { Language } from '@porch/core';
import { wordLists } from './word-lists.ts';

/*
 * Words that two people compare aloud to know that nobody sits between their programs. The holder commits to a nonce
 * before it knows the technician's, so that neither side, nor anybody between them, can choose keys until the words fit:
 * there is one try, and it succeeds once in 2^32.
 */
export interface WordExchange {
  readonly sessionId: string;
  readonly holder: { readonly id: string; readonly signKey: string; readonly agreeKey: string };
  readonly technician: { readonly id: string; readonly signKey: string; readonly agreeKey: string };
  /** Hex, 32 bytes each. */
  readonly holderNonce: string;
  readonly technicianNonce: string;
}

const CONTEXT = 'porch words 2';
export const WORD_COUNT = 4;
/** A standing consent's secret has more of them, so that nobody takes one for the other. */
export const PASSPHRASE_WORDS = 5;

/**
 * How many exchanges one program takes part in. Whoever sits between two programs and shows them ever new partners has
 * one try with each, at one in 2^32; each is shown to both people, and after these there are no more.
 */
export const MAX_WORD_TRIES = 5;

/** Words made of random bytes, one word a byte: 8 bits each. */
export const randomWords = (bytes: Uint8Array, language: Language): string[] =>
  Array.from(bytes, (byte) => wordLists[language][byte] ?? '');

const digest = (parts: readonly string[]) => sha256(utf8ToBytes([CONTEXT, ...parts].join('\n')));

/** What the holder says first: it binds its keys and its nonce, and shows neither nonce nor words. */
export function commitmentOf(holder: WordExchange['holder'], nonce: string): string {
  return bytesToHex(digest(['commit', holder.id, holder.signKey, holder.agreeKey, nonce]));
}

/** In the language that both sides read them in: the same bytes are other words in another. */
export function verificationWords(exchange: WordExchange, language: Language): string[] {
  const { sessionId, holder, technician, holderNonce, technicianNonce } = exchange;
  const bytes = digest([
    'words',
    sessionId,
    ...['holder', holder.id, holder.signKey, holder.agreeKey, holderNonce],
    ...['technician', technician.id, technician.signKey, technician.agreeKey, technicianNonce],
    commitmentOf(holder, holderNonce),
  ]);
  return randomWords(bytes.subarray(0, WORD_COUNT), language);
}
