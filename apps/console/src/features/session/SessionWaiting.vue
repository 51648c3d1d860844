<script setup lang="ts">
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
import { computed, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { countDown, useNow } from '../../times.ts';
import { customerStep } from './customer-steps.ts';
import { usePorch } from '../porch/usePorch.ts';
import StandingDoor from '../../abilities/standing/StandingDoor.vue';
import SessionInvite from './SessionInvite.vue';
import type { TechnicianSession } from './technician-session.ts';

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
const inLanguage = ref<Language>('en');
const state = computed(() => props.session.state.value);
const customers = computed(() => presentOf(state.value, 'customer'));
/** A visit to a device that has not begun yet. */
const isAtDoor = computed(() => state.value.deviceId !== undefined && !state.value.hasAccepted);
const step = computed(() =>
  customerStep(customers.value.length ? (props.session.step.value ?? 'page-open') : 'nobody'),
);
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
const newCode = () =>
  attempt(async () => take(await rest.newCode(props.session.id)), 'There is a new code; the old one is withdrawn.');
const withdraw = () =>
  attempt(async () => {
    await rest.withdrawCode(props.session.id);
    take(undefined);
  }, 'The code is withdrawn.');
</script>

<template>
  <div class="waiting" data-test="waiting">
    <StandingDoor v-if="isAtDoor" :session="session" />
    <section v-else class="card" role="status">
      <h2>{{ step.where }}</h2>
      <p class="say">Say: “{{ step.say }}”</p>
      <p v-if="customers.length && !session.isHolderThere.value" class="quiet">
        Doorstep is not running there yet. Until it is, you can only write to each other.
      </p>
      <p v-else-if="session.isFromBrowser" class="quiet">
        They can show a tab, a window or their screen from the browser as soon as you ask to see it. To work with mouse,
        keyboard or files, ask them to open Doorstep.
      </p>
    </section>
    <section v-if="!customers.length && !isAtDoor" class="card">
      <template v-if="code && !isExpired">
        <h2>Read this code to them</h2>
        <p class="code" data-test="code">{{ formatCode(code.digits) }}</p>
        <p class="aloud" :lang="inLanguage" data-test="read-aloud">{{ readAloud(code.digits, inLanguage) }}</p>
        <p class="quiet" data-test="second-number">
          If their page asks for a second number:
          <span class="tabular">{{ formatSecondNumber(code.secondNumber) }}</span>
        </p>
        <p class="quiet tabular">
          {{ countDown(codeEndsAtMs - now) }} left · read in
          <button
            v-for="language in languages"
            :key="language"
            class="plain"
            :aria-pressed="inLanguage === language"
            @click="inLanguage = language"
          >
            {{ languageNames[language] }}
          </button>
        </p>
      </template>
      <h2 v-else>There is no open code</h2>
      <p class="buttons">
        <NButton size="small" @click="newCode">New code</NButton>
        <NButton v-if="code && !isExpired" size="small" @click="withdraw">Withdraw it</NButton>
      </p>
      <p v-if="told" role="status">{{ told }}</p>
    </section>
    <section v-if="!isAtDoor" class="card" aria-labelledby="aim" data-test="aim">
      <h2 id="aim">What is it for?</h2>
      <p class="buttons">
        <NButton size="small" :aria-pressed="state.aim === 'look'" data-test="aim-look" @click="choose('look')"
          >{{ state.aim === 'look' ? '● ' : '' }}Look</NButton
        >
        <NButton size="small" :aria-pressed="state.aim === 'work'" data-test="aim-work" @click="choose('work')"
          >{{ state.aim === 'work' ? '● ' : '' }}Work</NButton
        >
      </p>
      <p class="quiet">
        {{
          state.aim === 'look'
            ? 'They show a tab, a window, their screen or the camera from the browser; nothing is installed. Not possible this way: mouse and keyboard, files, coming back later.'
            : 'They open Doorstep: mouse, keyboard and files are possible once they allow each.'
        }}
      </p>
    </section>
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
