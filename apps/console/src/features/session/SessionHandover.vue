<script setup lang="ts">
import { Said } from '@porch/pages';
import type { TechnicianView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, onMounted, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';
import type { TechnicianSession } from './technician-session.ts';
import { w } from '../../words/index.ts';

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
  <section class="handover" :aria-label="w.handover.title">
    <h2>{{ w.handover.title }}</h2>
    <template v-if="handover">
      <p v-if="handover.stage === 'offered'" role="status">
        <Said
          :of="
            w.handover.asked({
              name: colleagues.find((c) => c.id === handover?.toTechnicianId)?.name ?? '…',
              time: countDown(handover.answerByMs - now),
            })
          "
          ><template #b="{ text }"
            ><b class="tabular">{{ text }}</b></template
          ></Said
        >
      </p>
      <p v-else role="status">{{ w.handover.accepted }}</p>
      <NButton size="small" @click="takeBack">{{ w.handover.takeBack }}</NButton>
    </template>
    <form v-else @submit.prevent="request">
      <label for="handover-to">{{ w.handover.to }}</label>
      <select id="handover-to" v-model="to" data-test="handover-to">
        <option v-for="c in colleagues" :key="c.id" :value="c.id">
          {{ w.handover[c.isPresent ? 'colleague' : 'colleagueAway']({ name: c.name, team: c.team }) }}
        </option>
      </select>
      <NInput
        v-model:value="remark"
        size="small"
        :placeholder="w.handover.why"
        :input-props="{ 'aria-label': w.handover.why }"
      />
      <NButton attr-type="submit" size="small" type="primary" data-test="handover-ask">{{ w.handover.ask }}</NButton>
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
