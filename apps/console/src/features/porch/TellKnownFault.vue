<script setup lang="ts">
import { NButton, NInput } from 'naive-ui';
import { onMounted, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';

const { rest } = useDesk();
const topics = ref<string[]>([]);
const form = reactive({ topic: '', text: '', ticketRef: '' });
const { trouble, attempt } = useAttempt();

onMounted(() =>
  attempt(async () => {
    topics.value = (await rest.desk()).topics.map(({ topic }) => topic);
    form.topic = topics.value[0] ?? '';
  }),
);
const put = () =>
  attempt(async () => {
    const { ticketRef, ...rest_ } = form;
    await rest.publishKnownFault({ ...rest_, ...(ticketRef.trim() ? { ticketRef: ticketRef.trim() } : {}) });
    form.text = '';
  });
</script>

<template>
  <section>
    <details>
      <summary>{{ w.knownFaults.tell }}</summary>
      <form @submit.prevent="put">
        <label
          >{{ w.knownFaults.topic }}
          <select v-model="form.topic">
            <option v-for="topic in topics" :key="topic">{{ topic }}</option>
          </select>
        </label>
        <label
          >{{ w.knownFaults.ticket }}<NInput placeholder="" v-model:value="form.ticketRef" :maxlength="40"
        /></label>
        <label class="wide"
          >{{ w.knownFaults.read
          }}<NInput placeholder="" v-model:value="form.text" :maxlength="600" :input-props="{ required: true }"
        /></label>
        <NButton size="small" attr-type="submit" type="primary" :disabled="!form.text.trim()">{{
          w.knownFaults.publish
        }}</NButton>
      </form>
    </details>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
p {
  margin: 0;
}
form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
  margin-top: 0.5rem;
  justify-items: start;
}
label {
  display: grid;
  gap: 0.15rem;
  width: 100%;
}
.wide {
  grid-column: 1 / -1;
}
</style>
