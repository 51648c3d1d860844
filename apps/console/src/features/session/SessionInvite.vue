<script setup lang="ts">
import { inBackground } from '@porch/client';
import { languageNames, languages, type InvitationWay, type Language } from '@porch/core';
import type { InvitationView, MessagePreview } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { ago, exactly, useNow } from '../../times.ts';
import { usePorch } from '../porch/usePorch.ts';
import { deliveryInWords, isInVain, nextWay, wayNames } from './invitation-words.ts';
import type { TechnicianSession } from './technician-session.ts';

const props = defineProps<{ session: TechnicianSession }>();
const { rest } = useDesk();
const { porch } = usePorch();
const now = useNow();
const state = computed(() => props.session.state.value);
const invitations = computed(() => porch.value?.sessions.find((s) => s.id === props.session.id)?.invitations ?? []);
const ways = computed(() => porch.value?.ways ?? { hasMail: false, hasTexts: false });
const next = computed(() => nextWay(invitations.value, ways.value, state.value));
const offered = computed(() =>
  (Object.keys(wayNames) as InvitationWay[]).filter(
    (way) =>
      way !== 'link' &&
      (way !== 'mail' || ways.value.hasMail) &&
      (way !== 'text-message' || ways.value.hasTexts) &&
      (way !== 'ticket-comment' || state.value.ticketRef !== undefined),
  ),
);

const lifetimes = { 30: '30 minutes', 240: '4 hours', 1440: '1 day', 10080: '7 days' };
const open = ref<'mail' | 'text-message'>();
const form = reactive({ address: '', language: 'en' as Language, minutes: 1440, uses: 0, remark: '' });
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
    way === 'qr' ? 'Hold the picture where they can point a telephone at it.' : '',
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
const look = () =>
  attempt(async () => {
    if (open.value) preview.value = await rest.previewInvitation(props.session.id, body(open.value));
  }, '');
const withdraw = (invitation: InvitationView) =>
  attempt(() => rest.withdrawInvitation(props.session.id, invitation.id), 'It is withdrawn.');
const copy = (invitation: InvitationView) =>
  attempt(async () => {
    const { link } = await rest.invitationLink(props.session.id, invitation.id);
    await navigator.clipboard.writeText(link);
  }, 'The link is copied.');
</script>

<template>
  <section class="card" aria-labelledby="invite">
    <h2 id="invite">Or ask them in by</h2>
    <p class="buttons">
      <NButton
        v-for="way in offered"
        :key="way"
        size="small"
        :disabled="isBusy"
        :aria-expanded="way === 'mail' || way === 'text-message' ? open === way : undefined"
        :data-test="way === 'ticket-comment' ? 'post-link' : `invite-${way}`"
        @click="start(way)"
        >{{ wayNames[way] }}</NButton
      >
    </p>
    <form v-if="open" class="form" data-test="invite-form" @submit.prevent="make(open)">
      <label
        >{{ open === 'mail' ? 'Email address' : 'Telephone number' }}
        <NInput
          placeholder=""
          v-model:value="form.address"
          :input-props="{ required: true, type: open === 'mail' ? 'email' : 'tel' }"
        />
      </label>
      <label
        >Language
        <select v-model="form.language">
          <option v-for="language in languages" :key="language" :value="language">{{ languageNames[language] }}</option>
        </select>
      </label>
      <label
        >Works for
        <select v-model.number="form.minutes">
          <option v-for="(name, minutes) in lifetimes" :key="minutes" :value="Number(minutes)">{{ name }}</option>
        </select>
      </label>
      <label
        >How often
        <select v-model.number="form.uses">
          <option :value="0">until the session closes</option>
          <option :value="1">once</option>
          <option :value="3">three times</option>
        </select>
      </label>
      <label class="wide"
        >A line of your own
        <NInput placeholder="" v-model:value="form.remark" :maxlength="500" />
      </label>
      <p class="buttons wide">
        <NButton attr-type="submit" type="primary" size="small" :loading="isBusy">Send</NButton>
        <NButton size="small" @click="look">Show what is sent</NButton>
      </p>
      <blockquote v-if="preview" class="wide" data-test="preview">
        <b v-if="preview.subject">{{ preview.subject }}</b>
        <pre>{{ preview.text }}</pre>
      </blockquote>
    </form>
    <img v-if="picture" :src="picture" alt="QR picture of the join link" width="240" height="240" />
    <p v-if="told" role="status">{{ told }}</p>
    <ul v-if="invitations.length" class="rows" data-test="invitations">
      <li v-for="i in invitations" :key="i.id" :class="{ vain: isInVain(i, now) }">
        <span>
          <b>{{ wayNames[i.way] }}</b>{{ i.address ? ` to ${i.address}` : '' }}<br />
          <span :data-test="`delivery-${i.way}`"
            ><i aria-hidden="true">{{ deliveryInWords(i).mark }}</i> {{ deliveryInWords(i).words }}</span
          >
          <span class="quiet" :title="exactly(i.changedAtMs)"> · {{ ago(i.changedAtMs, now) }}</span>
        </span>
        <span v-if="i.delivery !== 'withdrawn'" class="buttons">
          <NButton v-if="next && isInVain(i, now)" size="tiny" type="primary" data-test="next-way" @click="start(next)"
            >Try: {{ wayNames[next] }}</NButton
          >
          <NButton size="tiny" :aria-label="`Copy the link: ${wayNames[i.way]}`" @click="copy(i)">Copy</NButton>
          <NButton size="tiny" :aria-label="`Withdraw: ${wayNames[i.way]}`" @click="withdraw(i)">Withdraw</NButton>
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
