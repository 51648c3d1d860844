/* Between a page and what runs beside its sound card. */

export type ToPlayer =
  | {
      readonly type: 'samples';
      readonly speaker: number;
      readonly channels: 1 | 2;
      readonly samples: Float32Array;
      readonly lost: number;
    }
  | { readonly type: 'gone'; readonly speaker: number }
  | { readonly type: 'volume'; readonly speaker: number; readonly gain: number };
/** How loud each speaker was lately. */
export type FromPlayer = readonly { readonly speaker: number; readonly peak: number }[];
