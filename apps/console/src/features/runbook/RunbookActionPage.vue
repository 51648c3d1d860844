<script setup lang="ts">
import { inBackground } from '@porch/client';
import { mayDo } from '@porch/core';
import type { RunbookActionWhole } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onMounted, ref, shallowRef } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import { aboutAction, whoOf } from './action-words.ts';
import ActionFacts from './ActionFacts.vue';
import RunbookEditor from './RunbookEditor.vue';

/* One action of the runbook: read, written anew, reviewed, approved, taken out of use. */
const props = defineProps<{ id: string }>();
const { rest, me } = useDesk();
const router = useRouter();
const found = shallowRef<RunbookActionWhole>();
const isWriting = ref(props.id === 'new');
const isAsking = ref(false);
const { trouble, isBusy, attempt } = useAttempt();

onMounted(() => {
  if (props.id !== 'new')
    inBackground(
      'reading an action',
      attempt(async () => void (found.value = await rest.runbookAction(props.id))),
    );
});
const mayReview = computed(() => {
  const { state, authorId } = found.value ?? {};
  return state === 'draft' && !!me.value && authorId !== me.value.id && mayDo(me.value, 'review a runbook action');
});
const mayApprove = computed(() => {
  const { state, team } = found.value ?? {};
  return state === 'reviewed' && !!me.value && mayDo(me.value, 'approve a runbook action', { ownerTeam: team });
});
const whatNext = computed(() => {
  const { runbook } = w.value;
  const { state, reviewerName: reviewer = '' } = found.value ?? {};
  if (state === 'draft') return mayReview.value ? runbook.toReview : runbook.othersReview;
  if (state === 'reviewed') return mayApprove.value ? runbook.toApprove({ reviewer }) : runbook.othersApprove;
  return '';
});
const review = () => attempt(async () => void (found.value = await rest.reviewRunbookAction(props.id)));
const approve = () => attempt(async () => void (found.value = await rest.approveRunbookAction(props.id)));
const withdraw = () =>
  attempt(async () => {
    await rest.withdrawRunbookAction(props.id);
    await router.push('/runbook');
  });
const handleWritten = (written: RunbookActionWhole) => router.push(`/runbook/${written.id}`);
</script>

<template>
  <main class="action">
    <p>
      <RouterLink to="/runbook">{{ w.runbook.title }}</RouterLink>
    </p>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">{{ trouble }}</NAlert>
    <RunbookEditor v-if="isWriting" :found="found" @written="handleWritten" @close="isWriting = false" />
    <template v-else-if="found">
      <h1>{{ found.title }}</h1>
      <p class="quiet">
        <b :class="{ open: found.state !== 'approved' }">{{ w.runbook.states[found.state] }}</b>
        {{ aboutAction(found) }}
      </p>
      <p v-if="whatNext" role="status">{{ whatNext }}</p>
      <ActionFacts :action="found.action" :hash="found.hash" />
      <div class="acts">
        <NButton v-if="mayReview" type="primary" :loading="isBusy" data-test="review" @click="review">{{
          w.runbook.review
        }}</NButton>
        <NButton v-if="mayApprove" type="primary" :loading="isBusy" data-test="approve" @click="approve">{{
          w.runbook.approve
        }}</NButton>
        <NButton data-test="edit" @click="isWriting = true">{{ w.runbook.edit }}</NButton>
        <NButton v-if="!isAsking" data-test="withdraw" @click="isAsking = true">{{ w.runbook.withdraw }}</NButton>
        <template v-else>
          <span>{{ w.runbook.reallyWithdraw }}</span>
          <NButton type="error" data-test="really-withdraw" @click="withdraw">{{ w.runbook.withdraw }}</NButton>
          <NButton @click="isAsking = false">{{ w.runbook.keep }}</NButton>
        </template>
      </div>
      <h2>{{ w.runbook.versions }}</h2>
      <ol reversed data-test="versions">
        <li v-for="one in found.versions" :key="one.version">{{ w.runbook.states[one.state] }}: {{ whoOf(one) }}</li>
      </ol>
    </template>
    <NSpin v-else-if="isBusy" :description="w.runbook.looking" />
  </main>
</template>

<style scoped>
.action {
  max-width: 60rem;
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
.open {
  color: var(--amber);
}
h2 {
  font-size: 1rem;
}
ol {
  list-style: none;
  padding: 0;
}
</style>
