<script setup lang="ts">
import { Said } from '@porch/pages';
import {
  formatCode,
  formatSecondNumber,
  languageNames,
  languages,
  presentOf,
  readAloud,
  type Language,
} from '@porch/core';
import type { CodeView } from '@porch/wire';
import { NButton } from 'naive-ui';
import { inBackground } from '@porch/client';
import { loadLedgerWords } from '@porch/words/ledger/lazily';
import { computed, ref, shallowRef, watch } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import StandingDoor from '../../abilities/standing/StandingDoor.vue';
import SessionPlanned from './SessionPlanned.vue';
import SessionInvite from './SessionInvite.vue';
import type { TechnicianSession } from './technician-session.ts';
import { language, ledger, w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const now = useNow();
const { porch, receivedAtMs } = usePorch();
const made = ref<{ view: CodeView | undefined; atMs: number }>();
/** The newest the service told of; what was just made here counts until it tells again. */
const code = computed(() =>
  made.value && made.value.atMs > receivedAtMs.value
    ? made.value.view
    : porch.value?.sessions.find((s) => s.id === props.session.id)?.code,
);
const codeEndsAtMs = computed(
  () =>
    (made.value && made.value.atMs > receivedAtMs.value ? made.value.atMs : receivedAtMs.value) +
    (code.value?.remainingMs ?? 0),
);
const told = ref('');
/** The customer's language, as far as it is known; the technician says which they read aloud in. */
const inLanguage = ref<Language>(language.value);
const aloudBook = shallowRef(ledger.value);
watch(inLanguage, (chosen) =>
  inBackground(
    'fetching the words',
    loadLedgerWords(chosen).then((book) => (aloudBook.value = book)),
  ),
);
const state = computed(() => props.session.state.value);
const customers = computed(() => presentOf(state.value, 'customer'));
/** A visit to a device that has not begun yet. */
const isAtDoor = computed(() => state.value.deviceId !== undefined && !state.value.hasAccepted);
const step = computed(() => {
  const { steps } = w.value.waitingRoom;
  const name = customers.value.length ? (props.session.step.value ?? 'page-open') : 'nobody';
  // Only who has not come yet is told where.
  if (name === 'nobody') return { where: steps.nobody.where, say: steps.nobody.say({ host: location.host }) };
  return steps[name];
});
const isExpired = computed(() => code.value !== undefined && codeEndsAtMs.value <= now.value);

const take = (view: CodeView | undefined) => (made.value = { view, atMs: Date.now() });
async function attempt(work: () => Promise<unknown>, done: string): Promise<void> {
  try {
    await work();
    told.value = done;
  } catch (error) {
    told.value = inWords(error);
  }
}
const choose = (aim: 'look' | 'work') =>
  attempt(() => props.session.connection.command({ type: 'chooseAim', aim }), '');
const newCode = () => attempt(async () => take(await rest.newCode(props.session.id)), w.value.waitingRoom.newCodeMade);
const withdraw = () =>
  attempt(async () => {
    await rest.withdrawCode(props.session.id);
    take(undefined);
  }, w.value.waitingRoom.withdrawn);
</script>

<template>
  <div class="waiting" data-test="waiting">
    <StandingDoor v-if="isAtDoor" :session="session" />
    <section v-else class="card" role="status">
      <h2>{{ step.where }}</h2>
      <p class="say">{{ w.waitingRoom.say({ text: step.say }) }}</p>
      <p v-if="customers.length && !session.isHolderThere.value" class="quiet">
        {{ w.waitingRoom.noDoorstep }}
      </p>
      <p v-else-if="session.isFromBrowser" class="quiet">
        {{ w.waitingRoom.fromBrowser }}
      </p>
    </section>
    <section v-if="!customers.length && !isAtDoor" class="card">
      <template v-if="code && !isExpired">
        <h2>{{ w.waitingRoom.readCode }}</h2>
        <p class="code" data-test="code">{{ formatCode(code.digits) }}</p>
        <p class="aloud" :lang="inLanguage" data-test="read-aloud">{{ readAloud(code.digits, aloudBook) }}</p>
        <p class="quiet" data-test="second-number">
          <Said :of="w.waitingRoom.secondNumber({ number: formatSecondNumber(code.secondNumber) })"
            ><template #number="{ text }"
              ><span class="tabular">{{ text }}</span></template
            ></Said
          >
        </p>
        <p class="quiet tabular">
          {{ w.waitingRoom.readIn({ time: countDown(codeEndsAtMs - now) }) }}
          <button
            v-for="one in languages"
            :key="one"
            class="plain"
            :aria-pressed="inLanguage === one"
            @click="inLanguage = one"
          >
            {{ languageNames[one] }}
          </button>
        </p>
      </template>
      <h2 v-else>{{ w.waitingRoom.noCode }}</h2>
      <p class="buttons">
        <NButton size="small" @click="newCode">{{ w.waitingRoom.newCode }}</NButton>
        <NButton v-if="code && !isExpired" size="small" @click="withdraw">{{ w.waitingRoom.withdraw }}</NButton>
      </p>
      <p v-if="told" role="status">{{ told }}</p>
    </section>
    <section v-if="!isAtDoor" class="card" aria-labelledby="aim" data-test="aim">
      <h2 id="aim">{{ w.waitingRoom.aim }}</h2>
      <p class="buttons">
        <NButton size="small" :aria-pressed="state.aim === 'look'" data-test="aim-look" @click="choose('look')"
          >{{ state.aim === 'look' ? '● ' : '' }}{{ w.waitingRoom.look }}</NButton
        >
        <NButton size="small" :aria-pressed="state.aim === 'work'" data-test="aim-work" @click="choose('work')"
          >{{ state.aim === 'work' ? '● ' : '' }}{{ w.waitingRoom.work }}</NButton
        >
      </p>
      <p class="quiet">
        {{ state.aim === 'look' ? w.waitingRoom.aimLook : w.waitingRoom.aimWork }}
      </p>
    </section>
    <SessionPlanned v-if="!isAtDoor && session.isLead.value" :session="session" />
    <SessionInvite v-if="!customers.length && !isAtDoor" :session="session" />
  </div>
</template>

<style scoped>
.waiting {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(22rem, 100%), 1fr));
  max-width: 62rem;
  margin-inline: auto;
  width: 100%;
  gap: 1rem;
  align-content: start;
  justify-content: center;
  padding: 1rem;
  height: 100%;
  overflow: auto;
}
.card {
  align-self: start;
}
[role='status'].card {
  grid-column: 1 / -1;
}
.say {
  font-size: 1.15rem;
}
.aloud {
  font-size: 1.05rem;
}
.plain {
  font: inherit;
  color: inherit;
  background: none;
  border: 0;
  padding: 0.2rem 0.3rem;
  text-decoration: underline;
  cursor: pointer;
}
.plain[aria-pressed='true'] {
  font-weight: 700;
  text-decoration: none;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
}
p {
  margin: 0.3rem 0;
}
</style>
