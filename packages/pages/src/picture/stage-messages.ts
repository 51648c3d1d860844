import type { PicturePort } from '@porch/client';
import type { CursorShape } from '@porch/screen';

export type ToStageWorker =
  | { type: 'begin'; display: number; canvas: OffscreenCanvas }
  | { type: 'key'; key: Parameters<PicturePort['setKey']>[0] }
  | { type: 'take'; bytes: ArrayBufferLike }
  | { type: 'challenge' | 'holds'; id: number }
  | { type: 'forget' };

export type FromStageWorker =
  | { type: 'painted'; width: number; height: number; generation: number; newestNumber: number }
  | { type: 'cursorShape'; shape: CursorShape }
  | { type: 'cursorAt'; x: number; y: number }
  | { type: 'handled'; bytes: number }
  | { type: 'standing'; ageMs: number | undefined; refused: number; isComplete: boolean }
  | { type: 'resync' }
  | { type: 'trouble'; trouble: 'no-key' | 'refused' }
  | { type: 'answer'; id: number; value: unknown };
