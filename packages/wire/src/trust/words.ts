import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';

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
export const randomWords = (bytes: Uint8Array): string[] => Array.from(bytes, (byte) => words[byte] ?? '');

/** 256 short words that sound unlike each other. */
const words = (
  'acorn almond amber anchor apple apron arch arrow attic autumn bacon badge baker bamboo banjo barley ' +
  'barn basin basket beach beacon beard beaver berry birch blanket blossom bonnet book bottle boulder ' +
  'brick bridge broom brush bucket butter button cabin cable cactus cake camel candle canoe canvas carpet ' +
  'carrot castle cedar cello chair chalk cherry chess chimney cinnamon circle clock cloud clover coast ' +
  'cobble coffee comet copper coral corner cotton cousin cradle crane cricket crown cup daisy dawn desert ' +
  'diamond dinner dolphin donkey dragon drum duck eagle earth elbow elm ember engine evening falcon farmer ' +
  'feather fern ferry fiddle field finger flag flower flute forest fossil fountain fox frost garden garlic ' +
  'gate ginger giraffe glacier glove gold goose grape gravel guitar hammer harbour harvest hazel heather ' +
  'hedge helmet heron honey hook hotel island ivory jacket jasmine jewel jungle kettle key kitchen kite ' +
  'ladder lagoon lake lantern lemon letter lilac linen lion lobster magnet mango maple marble market ' +
  'meadow melon mill mirror monkey morning moss mountain mushroom napkin needle nest nutmeg oak ocean ' +
  'olive onion orange orchard otter oven owl oyster paddle palace panda paper parrot pasture peach pearl ' +
  'pebble pencil pepper piano picnic pigeon pillow pine planet plum pocket pony poppy potato puddle ' +
  'pumpkin quilt rabbit radish raven ribbon river robin rocket rose saddle sail salmon sand scarf school ' +
  'shell silver sister slipper snow spoon spring squirrel star stone summer sunset swan table tailor ' +
  'teapot thunder tiger timber tomato tower trumpet tulip tunnel turtle umbrella valley velvet village ' +
  'violin walnut waterfall whale whistle window winter yellow zebra'
).split(' ');

const digest = (parts: readonly string[]) => sha256(utf8ToBytes([CONTEXT, ...parts].join('\n')));

/** What the holder says first: it binds its keys and its nonce, and shows neither nonce nor words. */
export function commitmentOf(holder: WordExchange['holder'], nonce: string): string {
  return bytesToHex(digest(['commit', holder.id, holder.signKey, holder.agreeKey, nonce]));
}

export function verificationWords(exchange: WordExchange): string[] {
  const { sessionId, holder, technician, holderNonce, technicianNonce } = exchange;
  const bytes = digest([
    'words',
    sessionId,
    ...['holder', holder.id, holder.signKey, holder.agreeKey, holderNonce],
    ...['technician', technician.id, technician.signKey, technician.agreeKey, technicianNonce],
    commitmentOf(holder, holderNonce),
  ]);
  return [...bytes.subarray(0, WORD_COUNT)].map((byte) => words[byte] ?? '');
}
