<script setup lang="ts">
import { inBackground } from '@porch/client';
import { isOver, purposeInWords, type Permission } from '@porch/core';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onBeforeUnmount, ref } from 'vue';
import { useRouter } from 'vue-router';
import { consoleAbilities } from '../../abilities/index.ts';
import PictureNow from '../../abilities/picture/PictureNow.vue';
import PictureView from '../../abilities/picture/PictureView.vue';
import { pictureTool } from '../../abilities/picture/tool.ts';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import SessionConsentStrip from './SessionConsentStrip.vue';
import SessionEnding from './SessionEnding.vue';
import SessionHandover from './SessionHandover.vue';
import SessionLeave from './SessionLeave.vue';
import SessionLedger from './SessionLedger.vue';
import SessionWaiting from './SessionWaiting.vue';
import SessionWrite from './SessionWrite.vue';
import { TechnicianSession } from './technician-session.ts';
import { useTakingOver } from './take-over.ts';
import { ledger, w } from '../../words/index.ts';

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
const onShelf = computed(() =>
  consoleAbilities.flatMap(({ name, shelf: item }) => (item?.isShown(session) ? [{ name, ...item }] : [])),
);
const open = computed(() => onShelf.value.find(({ name, panel }) => panel && name === shelf.value));
const toggle = (name: string) => (shelf.value = shelf.value === name ? '' : name);
const isLedgerOpen = ref(window.innerWidth > 760);
const trouble = ref('');
const state = computed(() => session.state.value);
const about = computed(() => {
  const { ticketRef: ticket } = state.value;
  const purpose = purposeInWords(state.value.purpose ?? '', ledger.value);
  return ticket ? w.value.session.about({ ticket, purpose }) : purpose;
});
const over = computed(() => isOver(state.value));
/** What the other Doorstep's computer calls itself. */
const candidateComputer = computed(() => session.computerOf(state.value.candidateId));
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
const answerChangeOver = (isYes: boolean) =>
  attempt(() =>
    session.connection.command({
      type: 'answerChangeOver',
      participantId: state.value.candidateId ?? '',
      isYes,
    }),
  );
function closeHere(): void {
  sessions.close(props.id);
  inBackground('going to the porch', router.push('/'));
}
</script>

<template>
  <main class="session" :class="{ narrow: !isLedgerOpen }">
    <header>
      <h1>{{ state.customerName ?? w.session.title }}</h1>
      <span class="quiet">{{ about }}</span>
      <span class="grow" />
      <template v-if="!over">
        <span v-if="state.isTryAsked" role="status">{{ w.session.tryAsked }}</span>
        <span v-else-if="state.tryAnswer" role="status"
          ><b>{{ w.session.tried[state.tryAnswer] }}</b></span
        >
        <NButton v-if="state.phase.name === 'live'" size="small" data-test="try" @click="tryIt">{{
          w.session.askToTry
        }}</NButton>
        <SessionLeave @end="end" @leave="leave" />
      </template>
    </header>
    <NAlert v-if="session.failed.value" type="warning" :show-icon="false" data-test="out">
      {{ w.session.out({ why: session.failed.value }) }}
      <NButton size="tiny" @click="closeHere">{{ w.session.backToPorch }}</NButton>
    </NAlert>
    <NAlert v-if="lineWord" type="warning" :show-icon="false">{{ lineWord }}</NAlert>
    <NAlert v-if="trouble" type="error" closable :show-icon="false" role="alert" @close="trouble = ''">{{
      trouble
    }}</NAlert>
    <NAlert
      v-if="state.candidateId && session.isLead.value && !over"
      type="warning"
      :show-icon="false"
      data-test="change-over"
    >
      {{ candidateComputer ? w.session.otherDoorstepOn({ computer: candidateComputer }) : w.session.otherDoorstep }}
      <NButton size="tiny" data-test="change-over-yes" @click="answerChangeOver(true)">{{
        w.session.changeOver
      }}</NButton>
      <NButton size="tiny" data-test="change-over-no" @click="answerChangeOver(false)">{{
        w.session.sendAway
      }}</NButton>
    </NAlert>
    <SessionConsentStrip v-if="!session.failed.value" :session="session" @ask="ask" @give-back="giveBack" />
    <div class="body">
      <nav class="shelf" :aria-label="w.session.shelf">
        <template v-if="!over">
          <template v-for="item in onShelf" :key="item.name">
            <component :is="item.button" v-if="item.button" :session="session" />
            <NButton
              v-else
              size="small"
              :aria-expanded="shelf === item.name"
              :data-test="`shelf-${item.name}`"
              @click="toggle(item.name)"
              >{{ item.label() }}</NButton
            >
          </template>
        </template>
        <NButton
          v-if="state.phase.name === 'live'"
          size="small"
          :aria-expanded="shelf === 'handover'"
          data-test="shelf-handover"
          @click="toggle('handover')"
          >{{ w.session.handOver }}</NButton
        >
        <NButton size="small" :aria-expanded="isLedgerOpen" @click="isLedgerOpen = !isLedgerOpen">{{
          w.session.ledger
        }}</NButton>
      </nav>
      <aside v-if="(open || shelf === 'handover') && !over" class="drawer">
        <SessionHandover v-if="shelf === 'handover'" :session="session" />
        <component :is="open.panel" v-else-if="open" :session="session" />
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
            <PictureNow v-if="hasPicture" :session="session" />
            <p v-if="!hasPicture && !isPaused" class="soon" role="status">{{ w.session.pictureSoon }}</p>
          </template>
          <SessionWaiting v-else :session="session" />
          <component :is="note" v-for="(note, i) in session.notes" :key="i" :session="session" />
        </template>
      </div>
      <section v-show="isLedgerOpen" class="side" :aria-label="w.session.side">
        <SessionLedger :session="session" />
        <SessionWrite :session="session" />
      </section>
    </div>
  </main>
</template>

<style scoped>
[data-test='change-over'] button + button {
  margin-left: 0.4rem;
}
.session {
  display: flex;
  flex-direction: column;
  height: 100%;
  min-height: 0;
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0.6rem;
  padding: 0.4rem 0.8rem;
}
h1 {
  margin: 0;
  font-size: 1.2rem;
}
.grow {
  flex: 1;
}
.body {
  flex: 1;
  display: flex;
  min-height: 0;
}
.shelf {
  display: flex;
  flex-direction: column;
  gap: 0.4rem;
  padding: 0.5rem;
}
.drawer {
  width: 17rem;
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
  grid-template-rows: minmax(0, 1fr) auto;
}
.soon {
  position: absolute;
  inset: auto 0 50%;
  text-align: center;
  color: #faf6ec;
  pointer-events: none;
}
.side {
  width: 21rem;
  display: flex;
  flex-direction: column;
  min-height: 0;
  border-left: 1px solid var(--line);
}
@media (max-width: 760px) {
  .session {
    height: auto;
    min-height: 100%;
  }
  .body {
    flex-direction: column;
  }
  .shelf {
    flex-flow: row wrap;
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
