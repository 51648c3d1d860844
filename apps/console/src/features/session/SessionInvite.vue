<script setup lang="ts">
import { Said } from '@porch/pages';
import { inBackground } from '@porch/client';
import { languageNames, languages, InvitationWay } from '@porch/core';
import type { InvitationView, MessagePreview } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import { deliveryInWords, deliveryMarks, isInVain, nextWay } from './invitation-words.ts';
import type { TechnicianSession } from './technician-session.ts';
import { language, w } from '../../words/index.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const { porch } = usePorch();
const now = useNow();
const state = computed(() => props.session.state.value);
const invitations = computed(() => porch.value?.sessions.find((s) => s.id === props.session.id)?.invitations ?? []);
const ways = computed(() => porch.value?.ways ?? { hasMail: false, hasTexts: false });
const next = computed(() => nextWay(invitations.value, ways.value, state.value));
const offered = computed(() =>
  InvitationWay.options.filter(
    (way) =>
      way !== 'link' &&
      (way !== 'mail' || ways.value.hasMail) &&
      (way !== 'text-message' || ways.value.hasTexts) &&
      (way !== 'ticket-comment' || state.value.ticketRef !== undefined),
  ),
);

const lifetimes = { 30: 'halfHour', 240: 'fourHours', 1440: 'oneDay', 10080: 'sevenDays' } as const;
const open = ref<'mail' | 'text-message'>();
const form = reactive({ address: '', language: language.value, minutes: 1440, uses: 0, remark: '' });
const preview = ref<MessagePreview>();
const picture = ref('');
const told = ref('');
const isBusy = ref(false);

async function attempt(work: () => Promise<unknown>, done: string): Promise<void> {
  isBusy.value = true;
  try {
    await work();
    told.value = done;
  } catch (error) {
    told.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
function body(way: InvitationWay) {
  const address = form.address.trim();
  return {
    way,
    language: form.language,
    minutes: form.minutes,
    remark: form.remark,
    ...(address && (way === 'mail' || way === 'text-message') ? { address } : {}),
    ...(form.uses ? { uses: form.uses } : {}),
  };
}
function start(way: InvitationWay): void {
  preview.value = undefined;
  picture.value = '';
  if (way === 'mail' || way === 'text-message') {
    form.address = way === 'mail' ? (state.value.customerAddress ?? '') : '';
    open.value = open.value === way ? undefined : way;
  } else inBackground('inviting', make(way));
}
const make = (way: InvitationWay) =>
  attempt(
    async () => {
      const { invitation } = await rest.invite(props.session.id, body(way));
      open.value = undefined;
      if (way === 'qr') picture.value = rest.invitationFilePath(props.session.id, invitation.id, 'qr.png');
      if (way === 'calendar' || way === 'join-file') download(invitation);
    },
    // What is carried by somebody tells of itself in the list.
    way === 'qr' ? w.value.inviting.holdPicture : '',
  );
function download(invitation: InvitationView): void {
  const a = document.createElement('a');
  a.href = rest.invitationFilePath(
    props.session.id,
    invitation.id,
    invitation.way === 'calendar' ? 'calendar' : 'join-file',
  );
  a.download = '';
  a.click();
}
const toWhom = ({ way, address }: InvitationView) => {
  const { by, byTo, ways } = w.value.inviting;
  return address ? byTo({ way: ways[way], address }) : by({ way: ways[way] });
};
const look = () =>
  attempt(async () => {
    if (open.value) preview.value = await rest.previewInvitation(props.session.id, body(open.value));
  }, '');
const withdraw = (invitation: InvitationView) =>
  attempt(() => rest.withdrawInvitation(props.session.id, invitation.id), w.value.inviting.isWithdrawn);
const copy = (invitation: InvitationView) =>
  attempt(async () => {
    const { link } = await rest.invitationLink(props.session.id, invitation.id);
    await navigator.clipboard.writeText(link);
  }, w.value.inviting.isCopied);
</script>

<template>
  <section class="card" aria-labelledby="invite">
    <h2 id="invite">{{ w.inviting.title }}</h2>
    <p class="buttons">
      <NButton
        v-for="way in offered"
        :key="way"
        size="small"
        :disabled="isBusy"
        :aria-expanded="way === 'mail' || way === 'text-message' ? open === way : undefined"
        :data-test="way === 'ticket-comment' ? 'post-link' : `invite-${way}`"
        @click="start(way)"
        >{{ w.inviting.ways[way] }}</NButton
      >
    </p>
    <form v-if="open" class="form" data-test="invite-form" @submit.prevent="make(open)">
      <label
        >{{ open === 'mail' ? w.inviting.email : w.inviting.telephone }}
        <NInput
          placeholder=""
          v-model:value="form.address"
          :input-props="{ required: true, type: open === 'mail' ? 'email' : 'tel' }"
        />
      </label>
      <label
        >{{ w.inviting.language }}
        <select v-model="form.language">
          <option v-for="one in languages" :key="one" :value="one">{{ languageNames[one] }}</option>
        </select>
      </label>
      <label
        >{{ w.inviting.worksFor }}
        <select v-model.number="form.minutes">
          <option v-for="(name, minutes) in lifetimes" :key="minutes" :value="Number(minutes)">
            {{ w.inviting[name] }}
          </option>
        </select>
      </label>
      <label
        >{{ w.inviting.howOften }}
        <select v-model.number="form.uses">
          <option :value="0">{{ w.inviting.untilClosed }}</option>
          <option :value="1">{{ w.inviting.once }}</option>
          <option :value="3">{{ w.inviting.threeTimes }}</option>
        </select>
      </label>
      <label class="wide"
        >{{ w.inviting.ownLine }}
        <NInput placeholder="" v-model:value="form.remark" :maxlength="500" />
      </label>
      <p class="buttons wide">
        <NButton attr-type="submit" type="primary" size="small" :loading="isBusy">{{ w.inviting.send }}</NButton>
        <NButton size="small" @click="look">{{ w.inviting.preview }}</NButton>
      </p>
      <blockquote v-if="preview" class="wide" data-test="preview">
        <b v-if="preview.subject">{{ preview.subject }}</b>
        <pre>{{ preview.text }}</pre>
      </blockquote>
    </form>
    <img v-if="picture" :src="picture" :alt="w.inviting.picture" width="240" height="240" />
    <p v-if="told" role="status">{{ told }}</p>
    <ul v-if="invitations.length" class="rows" data-test="invitations">
      <li v-for="i in invitations" :key="i.id" :class="{ vain: isInVain(i, now) }">
        <span>
          <Said :of="toWhom(i)"
            ><template #b="{ text }"
              ><b>{{ text }}</b></template
            ></Said
          ><br />
          <span :data-test="`delivery-${i.way}`"
            ><i aria-hidden="true">{{ deliveryMarks[i.delivery] }}</i> {{ deliveryInWords(i) }}</span
          >
          <span class="quiet" :title="exactly(i.changedAtMs)"> · {{ ago(i.changedAtMs, now) }}</span>
        </span>
        <span v-if="i.delivery !== 'withdrawn'" class="buttons">
          <NButton
            v-if="next && isInVain(i, now)"
            size="tiny"
            type="primary"
            data-test="next-way"
            @click="start(next)"
            >{{ w.inviting.try({ way: w.inviting.ways[next] }) }}</NButton
          >
          <NButton size="tiny" :aria-label="w.inviting.copyOf({ way: w.inviting.ways[i.way] })" @click="copy(i)">{{
            w.inviting.copy
          }}</NButton>
          <NButton
            size="tiny"
            :aria-label="w.inviting.withdrawOf({ way: w.inviting.ways[i.way] })"
            @click="withdraw(i)"
            >{{ w.inviting.withdraw }}</NButton
          >
        </span>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.card {
  align-self: start;
}
.buttons {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  margin: 0.3rem 0;
}
.form {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 0.5rem;
}
.wide {
  grid-column: 1 / -1;
}
label {
  display: grid;
  gap: 0.15rem;
}
blockquote {
  margin: 0;
  padding: 0.5rem 0.8rem;
  border-left: 3px solid var(--line);
}
pre {
  font: inherit;
  white-space: pre-wrap;
  overflow-wrap: anywhere;
  margin: 0.3rem 0 0;
}
img {
  display: block;
  background: #fff;
}
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0.3rem 0.8rem;
  overflow-wrap: anywhere;
}
.vain {
  background: var(--amber-ground);
  padding: 0.3rem;
  border-radius: 8px;
}
i {
  font-style: normal;
}
@media (max-width: 500px) {
  .form {
    grid-template-columns: 1fr;
  }
}
</style>
