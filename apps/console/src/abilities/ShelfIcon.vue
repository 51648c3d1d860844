<script lang="ts">
/* Signs of the shelf, drawn for this product on a grid of 24: plain things that the work is done with. */
const signs = {
  picture: 'M3 5h18v11H3zM9 20h6M12 16v4',
  drawing: 'M4 20l3-1L19 7l-2-2L5 17zM15 7l2 2',
  'own-screen': 'M3 5h18v11H3zM12 13V8M9.5 10.5L12 8l2.5 2.5M9 20h6',
  camera: 'M3 7h12v10H3zM15 11l6-3v8l-6-3z',
  input: 'M6 3l12 9-6 1-3 6z',
  pause: 'M8 5v14M16 5v14',
  keys: 'M2 7h20v10H2zM6 10h.01M10 10h.01M14 10h.01M18 10h.01M7 14h10',
  files: 'M3 6h7l2 3h9v10H3z',
  clipboard: 'M6 5h12v16H6zM9 3h6v4H9zM9 12h6M9 16h6',
  screenshot: 'M4 9V5h4M16 5h4v4M20 15v4h-4M8 19H4v-4M9 9h6v6H9z',
  'hands-off': 'M5 4l14 16M9 11V6M12 13V5M15 15V7M9 11v8h6',
  handover: 'M4 12h13M13 8l4 4-4 4M20 5v14',
  programs: 'M4 5h16v14H4zM4 10h16M10 10v9',
  'safe-points': 'M12 3l8 3v6c0 5-3.5 8-8 9-4.5-1-8-4-8-9V6zM8.5 12l2.5 2.5 4.5-5',
  'system-report': 'M4 20V10M10 20V4M16 20v-7M21 20H3',
  'command-line': 'M3 5h18v14H3zM7 9l3 3-3 3M12 15h5',
  'administrator-rights': 'M8 20a4 4 0 1 1 3.2-6.4L20 5M16.5 8.5l2.5 2.5M14 11l2 2M8 16h.01',
  'restart-and-return': 'M19 8a8 8 0 1 0 1 5M19 3v5h-5M12 8v5',
  prints: 'M7 9V4h10v5M4 9h16v7h-3M7 16H4V9M7 13h10v7H7z',
  desktops: 'M3 8h12v9H3zM7 8V5h14v9h-6M7 20h4M9 17v3',
  runbook: 'M4 6l2 2 3-4M4 13l2 2 3-4M12 7h8M12 14h8M4 20h16',
  'look-up': 'M12 6c-2-1.5-5-2-8-2v14c3 0 6 .5 8 2 2-1.5 5-2 8-2V4c-3 0-6 .5-8 2zM12 6v14',
  ledger: 'M5 4h14v16H5zM9 8h6M9 12h6M9 16h3',
  find: 'M10.5 4a6.5 6.5 0 1 0 .01 0M15.5 15.5L21 21',
} as const;
export type ShelfSign = keyof typeof signs;
export const isShelfSign = (name: string): name is ShelfSign => Object.hasOwn(signs, name);
</script>

<script setup lang="ts">
defineProps<{ sign: ShelfSign }>();
</script>

<template>
  <svg viewBox="0 0 24 24" aria-hidden="true"><path :d="signs[sign]" /></svg>
</template>

<style scoped>
svg {
  width: 1.35rem;
  height: 1.35rem;
  fill: none;
  stroke: currentcolor;
  stroke-width: 1.8;
  stroke-linecap: round;
  stroke-linejoin: round;
}
</style>
