<script setup lang="ts">
import type { DesktopRow } from '@porch/wire';
import { NButton } from 'naive-ui';
import { exactly } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { w } from '../../words/index.ts';
import AskFirst from '../AskFirst.vue';
import type { ConsoleSession } from '../console-ability.ts';
import { desktopsTool } from './tool.ts';

/* Who is signed in at their computer, which desktop is in front, and somebody of them asked in. */
const props = defineProps<{ session: ConsoleSession }>();
const { rows, ringing, answered, mayCall, ask, ring, stop } = props.session.tool(desktopsTool);
const { trouble, isBusy, attempt } = useAttempt((why) => w.value.desktops.could(why));
const askThem = () => attempt(ask);
const ringAt = (row: DesktopRow) => attempt(() => ring(row));
/** Who they are: their name, where the computer knows it, and the account. */
const whoIs = ({ name, account }: DesktopRow) => (name && name !== account ? `${name} (${account})` : account);
</script>

<template>
  <section class="drawer-panel" :aria-label="w.desktops.title" data-test="desktops">
    <h1>{{ w.desktops.title }}</h1>
    <p class="quiet">{{ w.desktops.about({ computer: session.theirComputer.value }) }}</p>
    <AskFirst
      v-if="!mayCall"
      :says="w.desktops.mayNot"
      :ask="w.desktops.ask"
      :is-busy="isBusy"
      data-test="ask-for-desktops"
      @asked="askThem"
    />
    <p v-else-if="!rows" class="quiet" role="status">{{ w.desktops.looking }}</p>
    <ul v-else data-test="signed-in">
      <li v-for="row in rows" :key="row.desktop" :data-account="row.account">
        <b class="name">{{ whoIs(row) }}</b>
        <span class="quiet"
          >{{ w.desktops.kinds[row.kind]
          }}<template v-if="row.kind !== 'no-desktop'"
            >, {{ row.isInFront ? w.desktops.inFront : w.desktops.behind }}</template
          >, {{ w.desktops.since({ when: exactly(row.sinceMs) }) }}</span
        >
        <span v-if="row.whyNot" class="why quiet">{{ w.desktops.whyNot[row.whyNot] }}</span>
        <template v-else-if="ringing?.desktop === row.desktop">
          <span role="status" class="why"
            >{{ w.desktops.ringing({ account: row.account }) }}
            <template v-if="!row.isInFront">{{ w.desktops.waitsBehind }}</template></span
          >
          <NButton size="small" data-test="stop-ringing" @click="stop">{{ w.desktops.stop }}</NButton>
        </template>
        <NButton v-else size="small" :disabled="isBusy" data-test="ring" @click="ringAt(row)">{{
          w.desktops.ring({ account: row.account })
        }}</NButton>
      </li>
    </ul>
    <p v-if="answered" role="status" data-test="rung">
      {{ w.desktops.how[answered.how]({ account: answered.account }) }}
    </p>
    <p v-if="trouble" role="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
ul {
  list-style: none;
  margin: 0.4rem 0;
  padding: 0;
  display: grid;
  gap: 0.8rem;
}
.name,
.why {
  display: block;
  overflow-wrap: anywhere;
}
.why {
  margin: 0.2rem 0;
}
</style>
