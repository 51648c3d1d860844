<script setup lang="ts">
import { onBeforeUnmount, ref } from 'vue';

/*
 * The picture once more, for a window of its own: what a worker of the page paints into a canvas there can be read, and is
 * black on the screen (seen in Chromium 156). It is copied as often as the window draws, for a moment after each change.
 */
const props = defineProps<{ source: HTMLCanvasElement; width: number; height: number }>();
/** A change is told a little before it can be read. */
const AFTER_MS = 300;
const copy = ref<HTMLCanvasElement>();
let timer = 0;
let untilMs = 0;
const ownWindow = () => copy.value?.ownerDocument.defaultView ?? window;

function draw(): void {
  const isDue = performance.now() < untilMs;
  timer = isDue ? ownWindow().requestAnimationFrame(draw) : 0;
  const { source } = props;
  if (!copy.value || !source.width) return;
  if (copy.value.width !== source.width || copy.value.height !== source.height)
    Object.assign(copy.value, { width: source.width, height: source.height });
  copy.value.getContext('2d')?.drawImage(source, 0, 0);
}
defineExpose({
  /** Something was painted. */
  touch(): void {
    untilMs = performance.now() + AFTER_MS;
    if (!timer) timer = ownWindow().requestAnimationFrame(draw);
  },
});
onBeforeUnmount(() => ownWindow().cancelAnimationFrame(timer));
</script>

<template>
  <canvas ref="copy" class="copy" data-test="stage-copy" :style="{ width: `${width}px`, height: `${height}px` }" />
</template>

<style scoped>
.copy {
  position: absolute;
  inset: 0 auto auto 0;
}
</style>
