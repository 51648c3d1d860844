import { onScopeDispose, ref, type Ref } from 'vue';
import { speech, w } from './words/index.ts';

const JUST_NOW_MS = 5_000;
const DAY_MS = 86_400_000;

/** The time now, once a second, while the calling component lives. */
export function useNow(): Ref<number> {
  const now = ref(Date.now());
  const timer = setInterval(() => (now.value = Date.now()), 1000);
  onScopeDispose(() => clearInterval(timer));
  return now;
}

export function ago(atMs: number, nowMs: number): string {
  const passedMs = Math.max(0, nowMs - atMs);
  if (passedMs < JUST_NOW_MS) return w.value.common.justNow;
  return passedMs < DAY_MS ? speech.value.fromNow(-passedMs) : speech.value.date(atMs);
}

export function countDown(ms: number): string {
  const seconds = Math.max(0, Math.ceil(ms / 1000));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
}

export const clock = (atMs: number): string => speech.value.clockToTheSecond(atMs);
export const toTheMinute = (atMs: number): string => speech.value.clock(atMs);
export const exactly = (atMs: number): string => speech.value.exactlyHere(atMs);
