<script setup lang="ts">
import { inBackground } from '@porch/client';
import type { KnowledgeNote } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import KnowledgeEditor from './KnowledgeEditor.vue';
import { aboutNote } from './note-words.ts';
import NoteText from './NoteText.ts';

/* One knowledge note: read, written anew, reviewed, taken out of use. */
const props = defineProps<{ id: string }>();
const { rest, me } = useDesk();
const router = useRouter();
const note = shallowRef<KnowledgeNote>();
const isWriting = ref(props.id === 'new');
const isAsking = ref(false);
const { trouble, isBusy, attempt } = useAttempt();

onMounted(() => {
  if (props.id !== 'new')
    inBackground(
      'reading a knowledge note',
      attempt(async () => void (note.value = await rest.knowledgeNote(props.id))),
    );
});
const mayReview = computed(
  () => note.value?.state === 'draft' && me.value?.role !== 'trainee' && note.value.authorId !== me.value?.id,
);
const review = () => attempt(async () => void (note.value = await rest.reviewKnowledgeNote(props.id)));
const withdraw = () =>
  attempt(async () => {
    await rest.withdrawKnowledgeNote(props.id);
    await router.push('/knowledge');
  });
async function handleWritten(written: KnowledgeNote): Promise<void> {
  await router.push(`/knowledge/${written.id}`);
}
</script>

<template>
  <main class="note">
    <p>
      <RouterLink to="/knowledge">{{ w.knowledge.title }}</RouterLink>
    </p>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <KnowledgeEditor v-if="isWriting" :note="note" @written="handleWritten" @close="isWriting = false" />
    <template v-else-if="note">
      <h1>{{ note.title }}</h1>
      <p class="quiet">
        <b v-if="note.state === 'draft'" class="draft">{{ w.knowledge.states.draft }}</b> {{ aboutNote(note) }}
      </p>
      <p v-if="note.state === 'draft'" role="status">
        {{ mayReview ? w.knowledge.toReview : w.knowledge.othersReview }}
      </p>
      <article class="card" :lang="note.language === 'no' ? 'nb' : note.language">
        <NoteText :text="note.text" />
      </article>
      <div class="acts">
        <NButton v-if="mayReview" type="primary" :loading="isBusy" data-test="review" @click="review">{{
          w.knowledge.review
        }}</NButton>
        <NButton data-test="edit" @click="isWriting = true">{{ w.knowledge.edit }}</NButton>
        <NButton v-if="!isAsking" data-test="withdraw" @click="isAsking = true">{{ w.knowledge.withdraw }}</NButton>
        <template v-else>
          <span>{{ w.knowledge.reallyWithdraw }}</span>
          <NButton type="error" data-test="really-withdraw" @click="withdraw">{{ w.knowledge.withdraw }}</NButton>
          <NButton @click="isAsking = false">{{ w.knowledge.keep }}</NButton>
        </template>
      </div>
    </template>
    <NSpin v-else-if="isBusy" :description="w.knowledge.looking" />
  </main>
</template>

<style scoped>
.note {
  max-width: 52rem;
  margin: 0 auto;
  padding: 1rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
  margin-top: 0.8rem;
}
.draft {
  color: var(--amber);
}
</style>
