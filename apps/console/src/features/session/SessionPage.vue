<script setup lang="ts">
import { inBackground } from '@porch/client';
import { isOver, purposeInWords, type Permission } from '@porch/core';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, nextTick, onBeforeUnmount, onMounted, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { consoleAbilities } from '../../abilities/index.ts';
import { inputTool } from '../../abilities/input/tool.ts';
import PictureView from '../../abilities/picture/PictureView.vue';
import StageFrame from '../../abilities/picture/StageFrame.vue';
import { pictureTool } from '../../abilities/picture/tool.ts';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import ActFinder from './ActFinder.vue';
import { sessionActs } from './session-acts.ts';
import SessionChangeOver from './SessionChangeOver.vue';
import SessionConsentStrip from './SessionConsentStrip.vue';
import SessionEnding from './SessionEnding.vue';
import SessionFacts from './SessionFacts.vue';
import SessionHandover from './SessionHandover.vue';
import SessionLeave from './SessionLeave.vue';
import SessionLedger from './SessionLedger.vue';
import SessionLookUp from './SessionLookUp.vue';
import SessionShelf from './SessionShelf.vue';
import SessionWaiting from './SessionWaiting.vue';
import SessionWrite from './SessionWrite.vue';
import { TechnicianSession } from './technician-session.ts';
import { useTakingOver } from './take-over.ts';
import { useLookUp } from './use-look-up.ts';
import { ledger, w } from '../../words/index.ts';

/** Below this a page is one column. */
const NARROW = 760;
const props = defineProps<{ id: string }>();
const desk = useDesk();
const { sessions } = desk;
const router = useRouter();
const session = sessions.open(props.id, () => new TechnicianSession(desk, props.id, consoleAbilities));
const hide = session.show();
onBeforeUnmount(hide);

const { hasPicture, isPaused, mayLook, view, stageBox } = session.tool(pictureTool);
/** What is open beside the stage: an ability's panel, or the handover. */
const shelf = ref('');
const opened = computed(() => {
  const item = consoleAbilities.find(({ name }) => name === shelf.value)?.shelf;
  return item?.panel && item.isShown(session) ? item : undefined;
});
const found = useLookUp(session);
// What is known stands there before anybody asks, where there is room, unless something else is open already.
const hasFound = computed(
  () => found.hasFound.value || consoleAbilities.some(({ lookUp }) => lookUp?.isShown(session)),
);
watch(hasFound, (has) => {
  if (has && !shelf.value && window.innerWidth > NARROW) shelf.value = 'look-up';
});
const isLedgerOpen = ref(window.innerWidth > NARROW);
const side = ref<HTMLElement>();
const isFinding = ref(false);
const trouble = ref('');
const state = computed(() => session.state.value);
const about = computed(() => {
  const { ticketRef: ticket } = state.value;
  const purpose = purposeInWords(state.value.purpose ?? '', ledger.value);
  return ticket ? w.value.session.about({ ticket, purpose }) : purpose;
});
const over = computed(() => isOver(state.value));
const lineWord = computed(() => {
  const { connecting, lineGone } = w.value.session;
  return { connecting, live: '', waiting: lineGone, closed: '' }[session.status.value];
});

async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
useTakingOver(session, attempt);
const ask = (...permissions: Permission[]) => attempt(() => session.ask(...permissions));
const giveBack = (permission: Permission) => attempt(() => session.giveBack(permission));
const tryIt = () => attempt(() => session.connection.command({ type: 'askToTry' }));
const end = () =>
  attempt(() =>
    session.connection.command({
      type: 'endSession',
      reason: 'technician',
      why: 'ended in the console',
      fact: undefined,
    }),
  );
/** The customer stays, and so does the session: whoever goes gives up what they were allowed. */
const leave = () =>
  attempt(async () => {
    // Nobody answers who has left; what matters is that it was sent while the line was there.
    session.connection.command({ type: 'leaveSession', reason: 'left without ending' }).catch(() => undefined);
    await session.whenOut();
    closeHere();
  });
/** What the key of this page opens, wherever on it somebody is. */
const acts = computed(() =>
  sessionActs(session, {
    isLive: state.value.phase.name === 'live',
    show: (name) => (shelf.value = name),
    ledger: () => (isLedgerOpen.value = !isLedgerOpen.value),
    focus: (box) => inBackground('going to a box', focusOn(box)),
  }),
);
async function focusOn(box: 'chat' | 'aside'): Promise<void> {
  isLedgerOpen.value = true;
  await nextTick();
  side.value?.querySelector<HTMLElement>(`[data-box=${box}] textarea`)?.focus();
}
const find = () => (isFinding.value = !over.value);
session.tool(inputTool).onLeader = find;
function handleKey(event: KeyboardEvent): void {
  if (event.key !== desk.preferences.now.value.leaderKey || event.defaultPrevented) return;
  event.preventDefault();
  find();
}
onMounted(() => window.addEventListener('keydown', handleKey));
onBeforeUnmount(() => {
  window.removeEventListener('keydown', handleKey);
  session.tool(inputTool).onLeader = () => undefined;
});
function closeHere(): void {
  sessions.close(props.id);
  inBackground('going to the porch', router.push('/'));
}
</script>

<template>
  <main class="session">
    <Teleport defer to="#place-head">
      <div class="head">
        <h1>{{ state.customerName ?? w.session.title }}</h1>
        <span class="about" :title="about">{{ about }}</span>
        <SessionFacts :session="session" />
        <template v-if="!over">
          <span v-if="state.isTryAsked" role="status">{{ w.session.tryAsked }}</span>
          <span v-else-if="state.tryAnswer" role="status"
            ><b>{{ w.session.tried[state.tryAnswer] }}</b></span
          >
          <NButton
            v-if="state.phase.name === 'live'"
            size="tiny"
            ghost
            color="#f4efe2"
            data-test="try"
            @click="tryIt"
            >{{ w.session.askToTry }}</NButton
          >
          <SessionLeave @end="end" @leave="leave" />
        </template>
      </div>
    </Teleport>
    <NAlert v-if="session.failed.value" type="warning" :show-icon="false" data-test="out">
      {{ w.session.out({ why: session.failed.value }) }}
      <NButton size="tiny" @click="closeHere">{{ w.session.backToPorch }}</NButton>
    </NAlert>
    <NAlert v-if="lineWord" type="warning" :show-icon="false">{{ lineWord }}</NAlert>
    <NAlert v-if="trouble" type="error" closable :show-icon="false" role="alert" @close="trouble = ''">{{
      trouble
    }}</NAlert>
    <SessionChangeOver v-if="!over" :session="session" @trouble="trouble = $event" />
    <SessionConsentStrip v-if="!session.failed.value" :session="session" @ask="ask" @give-back="giveBack" />
    <ActFinder v-if="isFinding" :acts="acts" @close="isFinding = false" />
    <div class="body">
      <SessionShelf
        v-model:open="shelf"
        :session="session"
        :is-over="over"
        :is-live="state.phase.name === 'live'"
        :is-ledger-open="isLedgerOpen"
        @ledger="isLedgerOpen = !isLedgerOpen"
        @find="find"
      />
      <aside
        v-if="(opened || shelf === 'handover' || shelf === 'look-up') && !over"
        class="drawer"
        :style="{ '--drawer': opened?.isWide ? 'min(62rem, 58%)' : '' }"
      >
        <SessionHandover v-if="shelf === 'handover'" :session="session" />
        <SessionLookUp v-else-if="shelf === 'look-up'" :session="session" :found="found" @show="shelf = $event" />
        <component :is="opened.panel" v-else-if="opened" :session="session" />
      </aside>
      <div ref="stageBox" class="stage">
        <NSpin v-if="session.status.value === 'connecting'" :description="w.session.opening" />
        <SessionEnding v-else-if="over" :session="session" />
        <template v-else>
          <template v-if="mayLook">
            <PictureView
              :key="view.display"
              :session="session"
              :display="view.display"
              :scale="view.scale"
              @scale="view = { ...view, scale: $event }"
            />
            <StageFrame v-if="hasPicture && !isPaused" :session="session" />
            <p v-if="!hasPicture && !isPaused" class="soon" role="status">{{ w.session.pictureSoon }}</p>
          </template>
          <SessionWaiting v-else :session="session" />
          <component :is="note" v-for="(note, i) in session.notes" :key="i" :session="session" />
        </template>
      </div>
      <section v-show="isLedgerOpen" ref="side" class="side" :aria-label="w.session.side">
        <SessionLedger :session="session" />
        <SessionWrite :session="session" />
      </section>
    </div>
  </main>
</template>

<style scoped>
.session {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}
.head {
  flex: 1;
  min-width: 0;
  display: flex;
  align-items: center;
  gap: 0.6rem;
}
h1 {
  margin: 0;
  font-size: 1.05rem;
  white-space: nowrap;
}
.about {
  min-width: 4.2rem;
  flex: 1;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.body {
  flex: 1;
  display: flex;
  min-height: 0;
}
.drawer {
  width: var(--drawer, 17rem);
  overflow: auto;
  background: var(--card);
  border-inline: 1px solid var(--line);
}
.stage {
  position: relative;
  flex: 1;
  min-width: 0;
  min-height: 0;
  display: grid;
  grid-template-rows: minmax(0, 1fr);
}
.soon {
  position: absolute;
  inset: auto 0 50%;
  text-align: center;
  color: #faf6ec;
  pointer-events: none;
}
/* As wide as leaves 960 pixels of 1280 for the picture, and wider by hand. */
.side {
  width: 270px;
  min-width: 220px;
  max-width: 46vw;
  resize: horizontal;
  overflow: hidden;
  direction: rtl;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--line);
}
.side > :deep(*) {
  direction: ltr;
}
@media (max-width: 760px) {
  .session {
    height: auto;
    min-height: 100%;
  }
  .body {
    flex-direction: column;
  }
  .head {
    flex-wrap: wrap;
    gap: 0.2rem 0.6rem;
  }
  .stage {
    min-height: 60vh;
  }
  .drawer,
  .side {
    width: 100%;
    border: 0;
    border-top: 1px solid var(--line);
    max-height: 60vh;
  }
}
</style>
