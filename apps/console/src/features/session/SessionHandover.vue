<script setup lang="ts">
import type { TechnicianView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, onMounted, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest, me } = useDesk();
const now = useNow();
const colleagues = ref<TechnicianView[]>([]);
const to = ref('');
const remark = ref('');
const trouble = ref('');
const handover = computed(() => props.session.state.value.handover);

onMounted(async () => {
  colleagues.value = (await rest.colleagues()).filter((c) => c.id !== me.value?.id);
  to.value =
    colleagues.value.find((c) => c.isPresent && c.team === me.value?.team)?.id ?? colleagues.value[0]?.id ?? '';
});
async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
const request = () =>
  attempt(() =>
    props.session.connection.command({
      type: 'requestHandover',
      handoverId: crypto.randomUUID(),
      toTechnicianId: to.value,
      remark: remark.value,
    }),
  );
const takeBack = () =>
  attempt(() => props.session.connection.command({ type: 'takeBackHandover', handoverId: handover.value?.id ?? '' }));
</script>

<template>
  <section class="handover" aria-label="Hand over">
    <h2>Hand over</h2>
    <template v-if="handover">
      <p v-if="handover.stage === 'offered'" role="status">
        {{ colleagues.find((c) => c.id === handover?.toTechnicianId)?.name }} is asked;
        <b class="tabular">{{ countDown(handover.answerByMs - now) }}</b> left to answer. Then it goes back to you.
      </p>
      <p v-else role="status">Accepted. The customer is being asked whether they agree.</p>
      <NButton size="small" @click="takeBack">Take it back</NButton>
    </template>
    <form v-else @submit.prevent="request">
      <label for="handover-to">To</label>
      <select id="handover-to" v-model="to" data-test="handover-to">
        <option v-for="c in colleagues" :key="c.id" :value="c.id">
          {{ c.name }}, {{ c.team }}{{ c.isPresent ? '' : ' (not here)' }}
        </option>
      </select>
      <NInput
        v-model:value="remark"
        size="small"
        placeholder="Why, in a few words"
        :input-props="{ 'aria-label': 'Why, in a few words' }"
      />
      <NButton attr-type="submit" size="small" type="primary" data-test="handover-ask">Ask to take over</NButton>
    </form>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.handover {
  padding: 0.6rem;
}
form {
  display: grid;
  grid-template-columns: minmax(0, 1fr);
  gap: 0.4rem;
}
select {
  width: 100%;
  min-width: 0;
}
</style>
