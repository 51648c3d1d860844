<script setup lang="ts">
import { Folded } from '@porch/pages';
import { inBackground } from '@porch/client';
import {
  firstName,
  allPermissions,
  areWordsSame,
  customersAct,
  presentOf,
  showingPermissions,
  standingOf,
  type Permission,
} from '@porch/core';
import type { DoorView } from '@porch/wire';
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import type { CustomerSession } from './customer-session.ts';
import { inWords } from './door.ts';
import { BrowserShare } from './share/browser-share.ts';
import SessionAsk from './SessionAsk.vue';
import SessionDoorstep from './SessionDoorstep.vue';
import SessionFiles from './SessionFiles.vue';
import CameraNow from './CameraNow.vue';
import ShownScreen from './ShownScreen.vue';
import SpeakingNow from './SpeakingNow.vue';
import SharedCopy from './SharedCopy.vue';
import SessionTalk from './SessionTalk.vue';
import { ledger, speech, w } from './words/index.ts';

const props = defineProps<{ door: DoorView; session: CustomerSession }>();
const trouble = ref('');
const state = computed(() => props.session.state.value);
const technicians = computed(() => presentOf(state.value, 'desk'));
const first = (name: string | undefined) => firstName(name ?? w.value.session.technician);
const lines = computed(() =>
  props.session.told.value
    .filter((e) => e.event.type !== 'chatSent')
    .slice(-6)
    .reverse(),
);
const chips = computed(() =>
  technicians.value.flatMap((t) =>
    allPermissions
      .map((permission) => ({ technician: t, permission, standing: standingOf(state.value, t.id, permission) }))
      .filter(({ standing }) => standing.name === 'allowed' || standing.name === 'waiting'),
  ),
);
const allowed = computed(() => chips.value.filter((c) => c.standing.name === 'allowed'));
const notCompared = computed(() =>
  props.session.isDoorstepThere.value
    ? technicians.value
        .filter(
          (t) =>
            showingPermissions.some((one) => standingOf(state.value, t.id, one).name === 'allowed') &&
            !areWordsSame(state.value, t.id),
        )
        .map((t) => first(t.name))
    : [],
);

/** Who asks that mouse and keyboard be left alone. */
const stepBackFor = computed(() =>
  technicians.value.find(({ id }) => id === state.value.slices['hands-off'].stepBackFor),
);
/** The picture of their desktop rests because a password is typed there. */
const isTyping = computed(() => state.value.slices.passwords.typing?.care === 'paused');
const shows = computed(() => state.value.slices['one-program'].shows);
const isPrivate = computed(() => state.value.slices.presence.privateAt.length > 0);
/** Meant for looking: what this page can do comes first. */
const isLookFirst = computed(
  () => state.value.aim === 'look' && BrowserShare.canShowAnything && !props.session.isDoorstepThere.value,
);
const setPrivate = (isOn: boolean) => attempt(() => connection.command({ type: 'setPrivate', isOn, fact: undefined }));
const { showing, trouble: shareTrouble } = props.session.share;
const asks = computed(() => Object.values(state.value.asks));
const isAskedHere = computed(() => asks.value.length > 0 && !props.session.isDoorstepThere.value);
const tellWhere = () =>
  props.session.tellStep(
    isAskedHere.value
      ? 'prompt-open'
      : props.session.isDoorstepThere.value || BrowserShare.isPossible
        ? 'ready'
        : 'getting-doorstep',
  );
onMounted(tellWhere);
/** What must be within reach at any moment has a key, since a worried person should not have to look for the button. */
function onKey(event: KeyboardEvent): void {
  if (!event.altKey || event.ctrlKey || event.metaKey) return;
  const act = {
    KeyS: () => stop('stop'),
    KeyP: () => setPrivate(!isPrivate.value),
    KeyT: () => Promise.all(allowed.value.map((chip) => takeBack(chip.technician.id, chip.permission))),
  }[event.code];
  if (!act) return;
  event.preventDefault();
  inBackground('a key', Promise.resolve(act()));
}
onMounted(() => addEventListener('keydown', onKey));
onUnmounted(() => removeEventListener('keydown', onKey));
watch([() => props.session.isDoorstepThere.value, isAskedHere], tellWhere);

async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
const { connection } = props.session;
const takeBack = (participantId: string, permission: Permission) =>
  attempt(() =>
    connection.command({
      type: 'withdrawPermission',
      participantId,
      permission,
      why: 'taken back on the page',
      fact: undefined,
    }),
  );
const stop = (reason: 'stop' | 'fraud') =>
  attempt(() =>
    connection.command({
      type: 'endSession',
      reason,
      why: reason === 'stop' ? 'pressed Stop on the page' : 'said that this feels wrong',
      fact: undefined,
    }),
  );
const tried = (answer: 'works' | 'does-not' | 'cannot-tell') =>
  attempt(() => connection.command({ type: 'answerTry', answer }));
</script>

<template>
  <main>
    <header class="top">
      <h1>
        {{
          technicians.length
            ? speech.list(technicians.map(({ name }) => name ?? w.session.technician))
            : door.technicianName
        }}
      </h1>
      <div class="pair">
        <button class="stop" data-test="stop" @click="stop('stop')">{{ w.session.stop }}</button>
        <button @click="stop('fraud')">{{ w.session.wrong }}</button>
      </div>
      <button v-if="allowed.length || isPrivate" class="small" data-test="private" @click="setPrivate(!isPrivate)">
        {{ isPrivate ? w.session.privateOver : w.session.private }}
      </button>
    </header>
    <p class="quiet keys">{{ w.session.keys }}</p>
    <p v-if="session.status.value !== 'live'" class="trouble" role="status">
      {{ w.session.lineGone }}
    </p>
    <p v-if="stepBackFor" class="card asks" role="status" data-test="step-back">
      {{ w.session.stepBack({ who: first(stepBackFor.name) }) }}
    </p>
    <p v-if="isTyping" class="card asks" role="status" data-test="types-password">{{ w.session.typesPassword }}</p>
    <p v-if="shows !== 'everything'" class="card" role="status" data-test="shows-one">
      {{ w.session.showsOne[shows] }}
    </p>
    <p v-if="trouble || shareTrouble" class="trouble" role="alert">{{ trouble || shareTrouble }}</p>

    <SessionAsk v-for="ask in asks" :key="ask.id" :session="session" :ask="ask" @trouble="trouble = $event" />
    <section v-if="showing" class="card asks" aria-labelledby="showing" data-test="showing">
      <h2 id="showing">{{ w.session.showing({ what: showing }) }}</h2>
      <p>{{ w.session.showingNote }}</p>
      <button data-test="stop-showing" @click="session.share.stop('stopped showing on the page')">
        {{ w.session.stopShowing }}
      </button>
    </section>

    <ShownScreen :session="session" />
    <SpeakingNow :session="session" />
    <CameraNow :session="session" />
    <SharedCopy v-if="session.share.marks.value.length" :session="session" />
    <section v-if="isPrivate" class="card asks" role="status" data-test="is-private">
      <p>{{ w.session.isPrivate }}</p>
    </section>
    <section v-if="isLookFirst" class="card" data-test="look-first">
      <p>{{ w.session.lookFirst({ name: first(door.technicianName) }) }}</p>
    </section>
    <details v-if="isLookFirst">
      <summary>{{ w.session.more }}</summary>
      <SessionDoorstep :door="door" :session="session" @trouble="trouble = $event" />
    </details>
    <SessionDoorstep
      v-else-if="!session.isDoorstepThere.value"
      :door="door"
      :session="session"
      @trouble="trouble = $event"
    />

    <section v-if="state.isTryAsked" class="card asks" role="status">
      <h2>{{ w.session.tryNow }}</h2>
      <p>{{ w.session.tryNote }}</p>
      <p class="answers">
        <button data-test="works" @click="tried('works')">{{ w.session.works }}</button>
        <button @click="tried('does-not')">{{ w.session.doesNot }}</button>
        <button @click="tried('cannot-tell')">{{ w.session.cannotTell }}</button>
      </p>
    </section>

    <section class="card" aria-labelledby="now">
      <h2 id="now">{{ w.session.now }}</h2>
      <p v-if="!allowed.length">{{ w.session.nothing }}</p>
      <ul class="strip">
        <li v-for="chip in chips" :key="`${chip.technician.id} ${chip.permission}`">
          <span>{{
            w.session[chip.standing.name === 'allowed' ? 'may' : 'asksTo']({
              name: first(chip.technician.name),
              what: customersAct(chip.permission, ledger),
            })
          }}</span>
          <button
            v-if="chip.standing.name === 'allowed'"
            class="small"
            @click="takeBack(chip.technician.id, chip.permission)"
          >
            {{ w.session.takeBack }}
          </button>
        </li>
      </ul>
    </section>

    <p v-for="name in notCompared" :key="name" class="quiet" data-test="not-compared">
      {{ w.session.notCompared({ name }) }}
    </p>
    <SessionTalk :session="session" />
    <SessionFiles :session="session" />

    <section class="card" aria-labelledby="line">
      <h2 id="line">{{ w.session.happened }}</h2>
      <ul class="quiet" aria-live="polite">
        <li v-for="e in lines" :key="e.seq"><Folded :text="e.sentence" /></li>
      </ul>
    </section>
  </main>
</template>

<style scoped>
.keys {
  margin: 0;
  font-size: 0.9rem;
}
/* A telephone has no Alt key to press. */
@media (hover: none) and (pointer: coarse) {
  .keys {
    display: none;
  }
}
.top {
  position: sticky;
  top: 0;
  background: var(--paper);
  padding-top: 0.4rem;
  z-index: 1;
}
.top h1 {
  margin: 0;
}
.pair {
  margin: 0.6rem 0;
}
.strip {
  list-style: none;
  padding: 0;
  display: grid;
  gap: 0.5rem;
}
.strip li {
  display: flex;
  justify-content: space-between;
  align-items: center;
  gap: 0.8rem;
}
.answers {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
}
</style>
