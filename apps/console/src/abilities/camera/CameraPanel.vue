<script setup lang="ts">
import { NButton } from 'naive-ui';
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue';
import { inWords } from '../../in-words.ts';
import { reasonInWords, w } from '../../words/index.ts';
import type { ConsoleSession } from '../console-ability.ts';
import { blobSink } from '../files/blob-sink.ts';
import PictureEditor from '../../picture-editing/PictureEditor.vue';
import { drawTurned, pixelsOf } from './turned-picture.ts';
import { cameraTool } from './tool.ts';

/* What their camera sees, while this panel is open; single pictures in full size, turned as it is shown, saved here. */
const props = defineProps<{ session: ConsoleSession }>();
const tool = props.session.tool(cameraTool);
const { arrived, isOn, isTaking, now, pace, quarters, taken, trouble } = tool;
const live = ref<HTMLCanvasElement>();
const single = shallowRef<ImageData>();
const editor = ref<InstanceType<typeof PictureEditor>>();
const done = ref('');
/** Over the stage, to read small print by. */
const isLarge = ref(false);
const says = computed(() => {
  if (!isOn.value) return '';
  const { is, why = '' } = now.value ?? {};
  if (is === 'none') return w.value.camera.none;
  if (is === 'resting') return w.value.camera.resting({ why: reasonInWords(why) });
  return pace.value ? '' : w.value.camera.opening;
});
const isLive = computed(() => isOn.value && pace.value !== undefined && now.value?.is === 'open');

onMounted(() => {
  tool.show = async (picture) => {
    if (live.value) await drawTurned(live.value, picture, quarters.value);
  };
  tool.setOn(true);
});
onUnmounted(() => {
  tool.show = undefined;
  tool.setOn(false);
});
watch(
  [taken, quarters],
  async () => {
    done.value = '';
    single.value = taken.value && (await pixelsOf(taken.value, quarters.value));
  },
  { immediate: true },
);

async function save(): Promise<void> {
  if (!taken.value || !editor.value) return;
  trouble.value = '';
  try {
    const sink = blobSink(`camera-${new Date().toISOString().slice(0, 19).replace(/:/g, '')}.jpg`);
    // The very bytes that came, as long as nothing was done to them.
    const isAsItCame = quarters.value === 0 && editor.value.isUntouched();
    await sink.write(isAsItCame ? taken.value.jpeg : await editor.value.bytes('image/jpeg'));
    await sink.finish();
    done.value = w.value.camera.saved;
  } catch (error) {
    trouble.value = inWords(error);
  }
}
const size = (of: { width: number; height: number }) => ({ width: `${of.width}`, height: `${of.height}` });
</script>

<template>
  <section class="camera" :aria-label="w.camera.title">
    <h2>{{ w.camera.title }}</h2>
    <p class="quiet">{{ w.camera.about }}</p>
    <p class="row">
      <NButton size="small" :type="isOn ? 'default' : 'primary'" data-test="camera-look" @click="tool.setOn(!isOn)">{{
        isOn ? w.camera.stop : w.camera.start
      }}</NButton>
      <NButton size="small" data-test="camera-turn" @click="tool.turn()">{{ w.camera.turn }}</NButton>
      <NButton
        v-if="isOn && now?.hasLight"
        size="small"
        :aria-pressed="now.isLightOn"
        data-test="camera-light"
        @click="tool.setLight(!now.isLightOn)"
        >{{ now.isLightOn ? w.camera.lightOff : w.camera.light }}</NButton
      >
    </p>
    <figure v-show="isLive" :class="{ 'over-stage': isLarge }" @keydown.esc="isLarge = false">
      <canvas
        ref="live"
        role="img"
        :aria-label="pace ? w.camera.live(size(pace)) : w.camera.opening"
        data-test="camera-live"
      />
      <figcaption v-if="pace" class="quiet">
        {{ w.camera.pace({ perSecond: pace.perSecond, ...size(pace) }) }}
        <NButton size="tiny" :aria-pressed="isLarge" data-test="camera-large" @click="isLarge = !isLarge">{{
          isLarge ? w.camera.small : w.camera.large
        }}</NButton>
      </figcaption>
    </figure>
    <p v-if="says" role="status" data-test="camera-says">{{ says }}</p>
    <NButton
      size="small"
      type="primary"
      :loading="isTaking"
      :disabled="isTaking"
      data-test="camera-take"
      @click="tool.take()"
      >{{ taken ? w.camera.takeAnother : w.camera.take }}</NButton
    >
    <p v-if="isTaking" role="status">{{ w.camera.taking({ percent: `${arrived}` }) }}</p>
    <template v-if="taken && single">
      <PictureEditor
        ref="editor"
        :image="single"
        :seat="session.connection.seat"
        :label="w.camera.taken(size(taken))"
      />
      <p class="row">
        <NButton size="small" data-test="camera-save" @click="save">{{ w.camera.save }}</NButton>
        <NButton size="small" data-test="camera-forget" @click="taken = undefined">{{ w.camera.forget }}</NButton>
      </p>
    </template>
    <p v-if="done" role="status">{{ done }}</p>
    <p v-if="trouble" role="alert" class="trouble">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.camera {
  padding: 0.6rem;
}
canvas {
  width: 100%;
  border: 1px solid var(--line);
  background: #000;
}
figure {
  margin: 0;
}
figcaption {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
  margin: 0.4rem 0;
  align-items: center;
}
.over-stage {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
}
.over-stage canvas {
  height: 100%;
  object-fit: contain;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem;
}
</style>
