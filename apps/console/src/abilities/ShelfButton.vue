<script setup lang="ts">
import ShelfIcon, { type ShelfSign } from './ShelfIcon.vue';

/* One act on the shelf: a sign, its name when pointed at and for whoever hears the page, and its key. */
defineProps<{ sign: ShelfSign; label: string; letter?: string | undefined; isOn?: boolean }>();
</script>

<template>
  <button
    type="button"
    class="shelf-button"
    :class="{ on: isOn }"
    :aria-label="label"
    :title="letter ? `${label} (${letter})` : label"
  >
    <ShelfIcon :sign="sign" />
  </button>
</template>

<style scoped>
.shelf-button {
  width: 40px;
  height: 36px;
  display: grid;
  place-items: center;
  padding: 0;
  color: var(--ink);
  background: none;
  border: 1px solid transparent;
  border-radius: 8px;
  cursor: pointer;
}
.shelf-button:hover {
  border-color: var(--line);
  background: var(--card);
}
.shelf-button.on,
.shelf-button[aria-expanded='true'] {
  color: var(--on-accent);
  background: var(--accent);
}
</style>
