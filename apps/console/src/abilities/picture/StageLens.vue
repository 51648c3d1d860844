<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref } from 'vue';

/* What is around the pointer, larger: taken from the picture as it is painted, so that a small one can be read. */
const props = defineProps<{
  source: HTMLCanvasElement;
  /** Where the pointer is, in pixels of the display. */
  at: { x: number; y: number };
  factor: number;
  /** Device pixels for each pixel of the display. */
  times: number;
}>();
const WIDTH = 340;
const HEIGHT = 220;
const lens = ref<HTMLCanvasElement>();
let timer = 0;
const ownWindow = () => lens.value?.ownerDocument.defaultView ?? window;

function draw(): void {
  timer = ownWindow().requestAnimationFrame(draw);
  const context = lens.value?.getContext('2d');
  if (!context || !props.source.width) return;
  const [width, height] = [WIDTH / props.times, HEIGHT / props.times];
  context.imageSmoothingEnabled = false;
  context.fillStyle = '#000';
  context.fillRect(0, 0, WIDTH, HEIGHT);
  context.drawImage(props.source, props.at.x - width / 2, props.at.y - height / 2, width, height, 0, 0, WIDTH, HEIGHT);
  // Where the pointer points.
  context.strokeStyle = '#7fc7cf';
  context.strokeRect(WIDTH / 2 - props.times / 2, HEIGHT / 2 - props.times / 2, props.times, props.times);
}
onMounted(draw);
onBeforeUnmount(() => ownWindow().cancelAnimationFrame(timer));
</script>

<template>
  <canvas
    ref="lens"
    class="lens"
    data-test="lens"
    aria-hidden="true"
    :width="WIDTH"
    :height="HEIGHT"
    :style="{ left: `${at.x * factor - WIDTH / 2}px`, top: `${at.y * factor - HEIGHT / 2}px` }"
  />
</template>

<style scoped>
.lens {
  position: absolute;
  pointer-events: none;
  border: 2px solid #7fc7cf;
  border-radius: 10px;
  box-shadow: 0 4px 18px rgb(0 0 0 / 45%);
  z-index: 3;
}
</style>
