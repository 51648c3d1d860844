<script setup lang="ts">
import { inBackground, leaveStanding } from '@porch/client';
import { stopsRestart, type RestartHow } from '@porch/core';
import { counted } from '@porch/words';
import { NButton, NCheckbox, NRadio, NRadioGroup } from 'naive-ui';
import { computed, ref, watch } from 'vue';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import CarefulLeave from '../CarefulLeave.vue';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { restartTool } from './tool.ts';

/* A restart of their computer: what it meets there, in which way, and what comes back by itself. */
const props = defineProps<{ session: ConsoleSession }>();
const { technician, outlook, wanted, isAsked, away, agreed, mayRestart, ask, look, want, restart, forget } =
  props.session.tool(restartTool);
const how = ref<RestartHow>('restart');
const signsIn = ref(false);
const { trouble, isBusy, attempt } = useAttempt((why) => w.value.restartAndReturn.refusedThere(why));
watch(
  mayRestart,
  (may) => {
    if (may) inBackground('what a restart would meet', attempt(look));
  },
  { immediate: true },
);
const hits = computed(() =>
  (outlook.value?.hits ?? []).map(({ hit, count = 0 }) => ({
    hit,
    words: counted(w.value.restartAndReturn.hits[hit], count),
  })),
);
const isStopped = computed(() => (outlook.value?.hits ?? []).some(({ hit }) => stopsRestart(hit, how.value)));
const canSignIn = computed(() => outlook.value?.canSignIn === true && how.value !== 'sign-out');
const goWords = computed(() =>
  w.value.restartAndReturn.go[how.value]({
    computer: outlook.value?.computer ?? '',
    account: outlook.value?.account ?? '',
  }),
);
const leaveFor = computed(() => (wanted.value && outlook.value?.isCareful ? wanted.value : undefined));
const isCleared = computed(
  () => !leaveFor.value || leaveStanding(props.session.state.value, leaveFor.value.restartId) === 'cleared',
);
const askLeave = async (reason: string) => {
  if (leaveFor.value && outlook.value) await technician.askLeave(leaveFor.value, outlook.value, reason || undefined);
};
const go = () => {
  want(how.value, canSignIn.value && signsIn.value);
  if (!outlook.value?.isCareful) inBackground('a restart', attempt(restart));
};
const goOn = () => inBackground('a restart', attempt(restart));
const lookAgain = () => attempt(look);
const askThem = () => attempt(ask);
</script>

<template>
  <section class="drawer-panel" :aria-label="w.restartAndReturn.title" data-test="restart">
    <h1>{{ w.restartAndReturn.title }}</h1>
    <p class="quiet">{{ w.restartAndReturn.about({ computer: session.theirComputer.value }) }}</p>
    <p v-if="agreed" class="quiet" data-test="comes-back">
      {{ w.restartAndReturn.comesBack({ count: agreed.permissions.length }) }}
    </p>
    <p v-if="away" role="status">{{ w.restartAndReturn.steps[away.step] }}</p>
    <AskFirst
      v-else-if="!mayRestart"
      :says="w.restartAndReturn.mayNot"
      :ask="w.restartAndReturn.ask"
      :is-busy="isBusy"
      data-test="ask-for-restart"
      @asked="askThem"
    />
    <template v-else-if="outlook">
      <h2>{{ w.restartAndReturn.meets }}</h2>
      <ul v-if="hits.length" data-test="restart-meets">
        <li v-for="one in hits" :key="one.hit">{{ one.words }}</li>
      </ul>
      <p v-else data-test="restart-meets">{{ w.restartAndReturn.meetsNothing }}</p>
      <p>
        <NButton size="tiny" :disabled="isBusy" @click="lookAgain">{{ w.restartAndReturn.again }}</NButton>
      </p>
      <template v-if="leaveFor">
        <CarefulLeave :key="leaveFor.restartId" :session="session" :act-id="leaveFor.restartId" :ask-leave="askLeave" />
        <p class="acts">
          <NButton size="small" :disabled="isBusy" @click="forget">{{ w.restartAndReturn.drop }}</NButton>
          <NButton size="small" type="primary" :disabled="!isCleared || isBusy" data-test="restart-now" @click="goOn">{{
            goWords
          }}</NButton>
        </p>
      </template>
      <form v-else-if="!isAsked" class="ways" @submit.prevent>
        <NRadioGroup v-model:value="how" name="restart-how" :aria-label="w.restartAndReturn.how">
          <NRadio v-for="one in outlook.hows" :key="one" :value="one" :data-test="`how-${one}`">{{
            w.restartAndReturn.hows[one]
          }}</NRadio>
        </NRadioGroup>
        <NCheckbox v-if="canSignIn" v-model:checked="signsIn" data-test="signs-in">{{
          w.restartAndReturn.signsIn({ account: outlook.account })
        }}</NCheckbox>
        <p>
          <NButton size="small" type="primary" :disabled="isBusy || isStopped" data-test="restart-go" @click="go">{{
            goWords
          }}</NButton>
        </p>
      </form>
      <p v-if="isAsked" role="status" class="acts" data-test="restart-asked">
        <span>{{ w.restartAndReturn.isAsked }}</span>
        <NButton size="small" @click="forget">{{ w.restartAndReturn.drop }}</NButton>
      </p>
    </template>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
.ways {
  display: grid;
  gap: 0.4rem;
}
.ways :deep(.n-radio-group) {
  display: grid;
  gap: 0.3rem;
}
ul {
  margin: 0.2rem 0;
  padding-left: 1.2rem;
}
h2 {
  font-size: 1rem;
  margin: 0.6rem 0 0.2rem;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.3rem 0.6rem;
  align-items: center;
}
</style>
