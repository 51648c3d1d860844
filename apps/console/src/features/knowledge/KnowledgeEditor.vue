<script setup lang="ts">
import { languageNames, languages, type Language } from '@porch/core';
import { MAX_NOTE_CHARACTERS, type KnowledgeNote } from '@porch/wire';
import { NAlert, NButton, NInput } from 'naive-ui';
import { computed, onMounted, reactive } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { language as spoken, w } from '../../words/index.ts';
import { nameFrom } from '../library/text-files.ts';
import { useTopics } from '../library/use-topics.ts';
import NoteText from './NoteText.ts';

/* A knowledge note is written here, and seen beside as it will be read. */
const props = defineProps<{ note: KnowledgeNote | undefined }>();
const emit = defineEmits<{ written: [note: KnowledgeNote]; close: [] }>();
const { rest } = useDesk();
const { topics, readTopics } = useTopics();
const form = reactive({
  name: props.note?.name ?? '',
  language: props.note?.language ?? (spoken.value satisfies Language),
  topic: props.note?.topic ?? '',
  labels: props.note?.labels.join(', ') ?? '',
  title: props.note?.title ?? '',
  text: props.note?.text ?? '',
});
const { trouble, isBusy, attempt } = useAttempt();
onMounted(() => attempt(readTopics));

/** From the title, unless somebody gave one; in another language it is the same note under the same name. */
const suggested = computed(() => nameFrom(form.title));
const basedOn = computed(() =>
  props.note && form.name === props.note.name && form.language === props.note.language ? props.note.id : undefined,
);
const write = () =>
  attempt(async () => {
    const labels = form.labels
      .split(',')
      .map((one) => one.trim())
      .filter((one) => one !== '');
    const written = await rest.writeKnowledgeNote({
      name: form.name || suggested.value,
      language: form.language,
      ...(form.topic ? { topic: form.topic } : {}),
      labels,
      title: form.title,
      text: form.text,
      ...(basedOn.value ? { basedOn: basedOn.value } : {}),
    });
    emit('written', written);
  });
</script>

<template>
  <form class="editor" @submit.prevent="write">
    <h1>{{ note ? w.knowledge.edit : w.knowledge.write }}</h1>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <label class="wide"
      >{{ w.knowledge.titleField
      }}<NInput
        v-model:value="form.title"
        placeholder=""
        :maxlength="120"
        :input-props="{ required: true, id: 'note-title' }"
    /></label>
    <label
      >{{ w.knowledge.language }}
      <select v-model="form.language">
        <option v-for="one in languages" :key="one" :value="one">{{ languageNames[one] }}</option>
      </select></label
    >
    <label
      >{{ w.knowledge.topic }}
      <select v-model="form.topic">
        <option value="">{{ w.knowledge.noTopic }}</option>
        <option v-for="one in topics" :key="one">{{ one }}</option>
      </select></label
    >
    <label>{{ w.knowledge.labels }}<NInput v-model:value="form.labels" placeholder="" :maxlength="300" /></label>
    <label
      >{{ w.knowledge.name
      }}<NInput
        v-model:value="form.name"
        :placeholder="suggested"
        :maxlength="80"
        :allow-input="(value: string) => /^[a-z0-9-]*$/.test(value)"
    /></label>
    <label
      >{{ w.knowledge.text
      }}<NInput
        v-model:value="form.text"
        type="textarea"
        placeholder=""
        :rows="16"
        :maxlength="MAX_NOTE_CHARACTERS"
        :input-props="{ required: true, id: 'note-text' }"
    /></label>
    <section :aria-label="w.knowledge.preview" class="preview">
      {{ w.knowledge.preview }}
      <div class="card" tabindex="0" role="region" :aria-label="w.knowledge.preview">
        <NoteText :text="form.text" />
      </div>
    </section>
    <div class="wide acts">
      <NButton
        attr-type="submit"
        type="primary"
        :loading="isBusy"
        :disabled="!form.title.trim() || !form.text.trim()"
        data-test="note-save"
        >{{ w.knowledge.save }}</NButton
      >
      <NButton v-if="note" @click="emit('close')">{{ w.knowledge.dontSave }}</NButton>
      <span class="quiet">{{ w.knowledge.whatNext }}</span>
    </div>
  </form>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 0.6rem 1rem;
}
.editor > h1,
.editor > :deep(.n-alert),
.wide {
  grid-column: 1 / -1;
}
label,
.preview {
  display: grid;
  gap: 0.15rem;
  align-content: start;
}
.preview .card {
  max-height: 24rem;
  overflow: auto;
  overflow-wrap: anywhere;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
}
@media (max-width: 760px) {
  .editor {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
