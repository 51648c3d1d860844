<script setup lang="ts">
import { inBackground } from '@porch/client';
import { isOver, type Permission } from '@porch/core';
import { ALL_MONITORS, AppError, type Mark } from '@porch/wire';
import { NAlert, NButton, NSpin } from 'naive-ui';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { inWords, useDesk } from '../../desk.ts';
import SessionConsentStrip from './SessionConsentStrip.vue';
import SessionEnding from './SessionEnding.vue';
import SessionFiles from './SessionFiles.vue';
import SessionHandover from './SessionHandover.vue';
import SessionLeave from './SessionLeave.vue';
import SessionLedger from './SessionLedger.vue';
import SessionPicture from './SessionPicture.vue';
import SessionPoint from './SessionPoint.vue';
import SessionPictureNow from './SessionPictureNow.vue';
import SessionStage from './SessionStage.vue';
import SessionWaiting from './SessionWaiting.vue';
import SessionWrite from './SessionWrite.vue';
import type { StageScale } from './stage-geometry.ts';
import { openStageWindow } from './stage-window.ts';

const props = defineProps<{ id: string }>();
const { sessions } = useDesk();
const router = useRouter();
const session = sessions.open(props.id);
const hide = session.show();
onBeforeUnmount(hide);

const scale = ref<StageScale>('fit');
const display = ref(0);
const stageBox = ref<HTMLElement>();
const shelf = ref<'none' | 'picture' | 'point' | 'files' | 'handover'>('none');
const tool = ref<Mark['kind']>();
watch(shelf, (now) => {
  if (now !== 'point') tool.value = undefined;
});
const isLedgerOpen = ref(window.innerWidth > 760);
const trouble = ref('');
const state = computed(() => session.state.value);
const over = computed(() => isOver(state.value));
/** What the other Doorstep's computer calls itself. */
const candidateComputer = computed(() => session.computerOf(state.value.candidateId));
const maySee = computed(() => (session.told.value, session.may('view-screen')));
const mayDraw = computed(() => (session.told.value, session.may('draw-on-screen')));
const mayWork = computed(() => (session.told.value, session.may('control-input')));
const isWorking = computed(
  () => session.leaseState.value.name === 'open' || session.leaseState.value.name === 'paused',
);
const lineWords = {
  connecting: 'connecting …',
  live: '',
  waiting: 'Your line to the service is gone; trying again. What you see may be old.',
  closed: '',
};

/** A colleague who comes in by a handover asks for what the first technician had, in one prompt. */
let hasAskedToTakeOver = false;
watch(
  () => [session.status.value, state.value.handover?.stage] as const,
  ([status, stage]) => {
    const { handover, leadId, standings } = state.value;
    const isMine =
      handover && state.value.participants[session.connection.participantId]?.technicianId === handover.toTechnicianId;
    if (
      status !== 'live' ||
      stage !== 'accepted' ||
      !isMine ||
      leadId === session.connection.participantId ||
      hasAskedToTakeOver
    )
      return;
    hasAskedToTakeOver = true;
    const held = Object.entries(standings[handover.fromParticipantId] ?? {})
      .filter(([, s]) => s.name === 'allowed')
      .map(([p]) => p as Permission);
    inBackground('asking as the colleague', takeOver(held.length ? held : ['view-screen']));
  },
  { immediate: true },
);

async function attempt(work: () => Promise<unknown>): Promise<void> {
  trouble.value = '';
  await work().catch((error: unknown) => (trouble.value = inWords(error)));
}
const ask = (...permissions: Permission[]) =>
  attempt(() => session.connection.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions }));
/** Where words must be compared before mouse and keyboard, a colleague asks for those later. */
const takeOver = (held: readonly Permission[]) =>
  attempt(async () => {
    const askFor = (permissions: Permission[]) =>
      session.connection.command({ type: 'askPermissions', askId: crypto.randomUUID(), permissions });
    await askFor([...held]).catch((error: unknown) => {
      if (!(error instanceof AppError) || error.code !== 'WORDS_NOT_COMPARED') throw error;
      return askFor(held.filter((permission) => permission !== 'control-input'));
    });
  });
const giveBack = (permission: Permission) =>
  attempt(() =>
    session.connection.command({
      type: 'withdrawPermission',
      participantId: session.connection.participantId,
      permission,
      why: 'given back',
      fact: undefined,
    }),
  );
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
/** A monitor that went away leaves the first one. */
watch(session.displays, (rows) => {
  if (display.value < ALL_MONITORS && !rows.some((row) => row.display === display.value)) display.value = 0;
});
function openWindow(number: number): void {
  const row = session.displays.value.find((r) => r.display === number);
  if (!openStageWindow(session, number, row?.name ?? 'Screen'))
    trouble.value = 'Your browser does not open windows for this page; allow them and try again.';
}
/** Full screen takes every key that the browser can give. */
async function fullScreen(): Promise<void> {
  await attempt(async () => {
    await stageBox.value?.requestFullscreen();
    const { keyboard } = navigator as Navigator & { keyboard?: { lock(): Promise<void> } };
    await keyboard?.lock();
  });
}
const tried = {
  works: 'They tried it: it works.',
  'does-not': 'They tried it: it does not work.',
  'cannot-tell': 'They tried it and cannot tell yet.',
};
</script>

<template>
  <main class="session" :class="{ narrow: !isLedgerOpen }">
    <header>
      <h1>{{ state.customerName ?? 'Session' }}</h1>
      <span class="quiet">{{ state.ticketRef ? `${state.ticketRef}: ` : '' }}{{ state.purpose }}</span>
      <span class="grow" />
      <template v-if="!over">
        <span v-if="state.isTryAsked" role="status">They are asked to try it …</span>
        <span v-else-if="state.tryAnswer" role="status"
          ><b>{{ tried[state.tryAnswer] }}</b></span
        >
        <NButton v-if="state.phase.name === 'live'" size="small" data-test="try" @click="tryIt"
          >Ask them to try it</NButton
        >
        <SessionLeave @end="end" @leave="leave" />
      </template>
    </header>
    <NAlert v-if="session.failed.value" type="warning" :show-icon="false" data-test="out">
      You are not in this session any longer: {{ session.failed.value }}.
      <NButton size="tiny" @click="closeHere">Back to the porch</NButton>
    </NAlert>
    <NAlert v-if="lineWords[session.status.value]" type="warning" :show-icon="false">{{
      lineWords[session.status.value]
    }}</NAlert>
    <NAlert v-if="trouble" type="error" closable :show-icon="false" role="alert" @close="trouble = ''">{{
      trouble
    }}</NAlert>
    <NAlert
      v-if="state.candidateId && session.isLead.value && !over"
      type="warning"
      :show-icon="false"
      data-test="change-over"
    >
      Another Doorstep{{ candidateComputer ? ` (on ${candidateComputer})` : '' }} wants to take the place of the one you
      see. Ask the customer whether they started it. What was allowed ends with the change.
      <NButton size="tiny" data-test="change-over-yes" @click="answerChangeOver(true)">Change over</NButton>
      <NButton size="tiny" data-test="change-over-no" @click="answerChangeOver(false)">Send it away</NButton>
    </NAlert>
    <SessionConsentStrip v-if="!session.failed.value" :session="session" @ask="ask" @give-back="giveBack" />
    <div class="body">
      <nav class="shelf" aria-label="Work">
        <template v-if="maySee && !over">
          <NButton
            size="small"
            :aria-expanded="shelf === 'picture'"
            data-test="shelf-picture"
            @click="shelf = shelf === 'picture' ? 'none' : 'picture'"
            >Picture</NButton
          >
          <NButton
            v-if="mayDraw"
            size="small"
            :aria-expanded="shelf === 'point'"
            data-test="shelf-point"
            @click="shelf = shelf === 'point' ? 'none' : 'point'"
            >Point</NButton
          >
          <NButton
            v-if="mayWork"
            size="small"
            type="primary"
            data-test="work"
            :aria-pressed="isWorking"
            @click="isWorking ? session.lease.release() : session.lease.open()"
            >{{ isWorking ? 'Hands off' : 'Work' }}</NButton
          >
        </template>
        <template v-if="state.phase.name === 'live'">
          <NButton
            size="small"
            :aria-expanded="shelf === 'files'"
            data-test="shelf-files"
            @click="shelf = shelf === 'files' ? 'none' : 'files'"
            >Files</NButton
          >
          <NButton
            size="small"
            :aria-expanded="shelf === 'handover'"
            data-test="shelf-handover"
            @click="shelf = shelf === 'handover' ? 'none' : 'handover'"
            >Hand over</NButton
          >
        </template>
        <NButton size="small" :aria-expanded="isLedgerOpen" @click="isLedgerOpen = !isLedgerOpen">Ledger</NButton>
      </nav>
      <aside v-if="shelf !== 'none' && !over" class="drawer">
        <SessionPicture
          v-if="shelf === 'picture'"
          :session="session"
          :display="display"
          :scale="scale"
          :is-working="isWorking"
          @display="display = $event"
          @scale="scale = $event"
          @window="openWindow"
          @full-screen="fullScreen"
        />
        <SessionPoint v-else-if="shelf === 'point'" :session="session" :tool="tool" @tool="tool = $event" />
        <SessionFiles v-else-if="shelf === 'files'" :session="session" />
        <SessionHandover v-else :session="session" />
      </aside>
      <div ref="stageBox" class="stage">
        <NSpin v-if="session.status.value === 'connecting'" description="Opening the session" />
        <SessionEnding v-else-if="over" :session="session" />
        <template v-else>
          <SessionStage
            v-if="maySee"
            :key="display"
            :session="session"
            :display="display"
            :scale="scale"
            :tool="mayDraw ? tool : undefined"
            @ask-to-work="ask('control-input')"
          />
          <SessionPictureNow v-if="maySee && session.hasPicture.value" :session="session" />
          <p
            v-if="maySee && state.slices.presence.privateAt.length"
            class="private"
            role="status"
            data-test="is-private"
          >
            They are doing something private. The picture comes back by itself.
          </p>
          <p v-else-if="maySee && state.slices.presence.isAway" class="private" role="status" data-test="is-away">
            Nobody seems to be at their computer: mouse and keyboard pause. Ask under More: Use mouse and keyboard while
            they are away.
          </p>
          <p v-if="maySee && !session.hasPicture.value" class="soon" role="status">The picture is on its way …</p>
          <SessionWaiting v-if="!maySee" :session="session" />
        </template>
      </div>
      <section v-show="isLedgerOpen" class="side" aria-label="Ledger and conversation">
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
.private {
  position: absolute;
  inset: 0.6rem 0.6rem auto;
  margin: 0;
  padding: 0.5rem 0.8rem;
  text-align: center;
  border: 2px solid var(--amber);
  border-radius: 8px;
  background: var(--card);
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
