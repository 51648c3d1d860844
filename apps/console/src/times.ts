import { locales } from '@porch/core';
import { onScopeDispose, ref, type Ref } from 'vue';

/** The time now, once a second, while the calling component lives. */
export function useNow(): Ref<number> {
  const now = ref(Date.now());
  const timer = setInterval(() => (now.value = Date.now()), 1000);
  onScopeDispose(() => clearInterval(timer));
  return now;
}

export function ago(atMs: number, nowMs: number): string {
  const seconds = Math.max(0, Math.round((nowMs - atMs) / 1000));
  if (seconds < 5) return 'just now';
  if (seconds < 60) return `${seconds} s ago`;
  if (seconds < 3600) return `${Math.round(seconds / 60)} min ago`;
  if (seconds < 86_400) return `${Math.round(seconds / 3600)} h ago`;
  return new Date(atMs).toLocaleDateString(locales.en, { dateStyle: 'medium' });
}

export function countDown(ms: number): string {
  const seconds = Math.max(0, Math.ceil(ms / 1000));
  return `${Math.floor(seconds / 60)}:${String(seconds % 60).padStart(2, '0')}`;
}

export const clock = (atMs: number): string =>
  new Date(atMs).toLocaleTimeString(locales.en, { hour: '2-digit', minute: '2-digit', second: '2-digit' });
export const exactly = (atMs: number): string =>
  new Date(atMs).toLocaleString(locales.en, { dateStyle: 'medium', timeStyle: 'medium' });
