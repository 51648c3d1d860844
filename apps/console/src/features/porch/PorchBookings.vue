<script setup lang="ts">
import { languageNames, languages, type Language } from '@porch/core';
import type { BookingView, TechnicianView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { exactly } from '../../times.ts';

const props = defineProps<{ bookings: readonly BookingView[] }>();
const { rest } = useDesk();
const router = useRouter();
const trouble = ref('');
const told = ref('');
const isBusy = ref(false);
const moving = ref('');
const ownZone = Intl.DateTimeFormat().resolvedOptions().timeZone;
// A browser does not list UTC among its zones, and may itself be there.
const zones = [...new Set([ownZone, 'UTC', ...Intl.supportedValuesOf('timeZone')])];
const form = reactive({
  customerName: '',
  address: '',
  telephone: '',
  purpose: '',
  ticketRef: '',
  date: '',
  time: '',
  timeZone: ownZone,
  minutes: 30,
  language: 'en' as Language,
  technicianId: '',
});
const colleagues = ref<TechnicianView[]>([]);
/** Read when somebody books, not before. */
async function readColleagues(event: Event): Promise<void> {
  if (!(event.target as HTMLDetailsElement).open || colleagues.value.length) return;
  await attempt(async () => void (colleagues.value = await rest.colleagues()), '');
}
const to = reactive({ date: '', time: '', minutes: 30 });
const byDay = computed(() => {
  const days = new Map<string, BookingView[]>();
  for (const b of props.bookings) {
    const day = new Date(b.startsAtMs).toDateString();
    days.set(day, [...(days.get(day) ?? []), b]);
  }
  return [...days.entries()];
});
const dayName = (day: string) =>
  day === new Date().toDateString()
    ? 'Today'
    : new Date(day).toLocaleDateString('en-GB', { weekday: 'long', day: 'numeric', month: 'long' });
const hour = (atMs: number) => new Date(atMs).toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });

async function attempt(work: () => Promise<unknown>, done: string): Promise<void> {
  isBusy.value = true;
  [trouble.value, told.value] = ['', ''];
  try {
    await work();
    told.value = done;
  } catch (error) {
    trouble.value = inWords(error);
  } finally {
    isBusy.value = false;
  }
}
const book = () =>
  attempt(async () => {
    const { telephone, ticketRef, technicianId, ...rest_ } = form;
    await rest.book({
      ...rest_,
      ...(technicianId ? { technicianId } : {}),
      ...(telephone.trim() ? { telephone: telephone.trim() } : {}),
      ...(ticketRef.trim() ? { ticketRef: ticketRef.trim() } : {}),
    });
    Object.assign(form, { customerName: '', address: '', telephone: '', purpose: '', ticketRef: '' });
  }, 'It is booked; the customer is told by mail.');
function startMoving(b: BookingView): void {
  moving.value = moving.value === b.id ? '' : b.id;
  Object.assign(to, { ...b.wallTime, minutes: b.minutes });
}
const move = (b: BookingView) =>
  attempt(async () => {
    await rest.moveBooking(b.id, to);
    moving.value = '';
  }, 'It is moved; the customer is told.');
const cancel = (b: BookingView) =>
  attempt(() => rest.cancelBooking(b.id, ''), 'It is cancelled; the customer is told.');
</script>

<template>
  <section aria-labelledby="booked">
    <h2 id="booked">Booked</h2>
    <p v-if="!bookings.length" class="quiet">Nothing is booked.</p>
    <template v-for="[day, list] in byDay" :key="day">
      <h3>{{ dayName(day) }}</h3>
      <ul class="rows">
        <li v-for="b in list" :key="b.id" class="card" data-test="booking">
          <div>
            <b class="tabular" :title="exactly(b.startsAtMs)">{{ hour(b.startsAtMs) }}</b> · {{ b.customerName }} ·
            {{ b.minutes }} min<template v-if="b.timeZone !== ownZone">
              · {{ b.wallTime.time }} in {{ b.timeZone }}</template
            >
            <p>{{ b.purpose }}</p>
            <p v-if="b.delivery === 'failed'" class="alert">The mail did not arrive: {{ b.why }}</p>
          </div>
          <span class="row">
            <NButton size="small" @click="router.push(`/session/${b.sessionId}`)">Open</NButton>
            <NButton size="small" :aria-expanded="moving === b.id" @click="startMoving(b)">Move</NButton>
            <NButton size="small" :aria-label="`Cancel the booking of ${b.customerName}`" @click="cancel(b)"
              >Cancel it</NButton
            >
          </span>
          <form v-if="moving === b.id" class="row wide" @submit.prevent="move(b)">
            <label>Date<input v-model="to.date" type="date" required /></label>
            <label>Time<input v-model="to.time" type="time" required /></label>
            <NButton size="small" type="primary" attr-type="submit">Move it</NButton>
          </form>
        </li>
      </ul>
    </template>
    <details data-test="book" @toggle="readColleagues">
      <summary>Book a session</summary>
      <form class="grid" @submit.prevent="book">
        <label
          >Whose session<select v-model="form.technicianId">
            <option value="">mine</option>
            <option v-for="c in colleagues" :key="c.id" :value="c.id">{{ c.name }} ({{ c.team }})</option>
          </select></label
        >
        <label
          >Customer<NInput placeholder="" v-model:value="form.customerName" :input-props="{ required: true }"
        /></label>
        <label
          >Email address<NInput
            placeholder=""
            v-model:value="form.address"
            :input-props="{ required: true, type: 'email' }"
        /></label>
        <label>Date, as their calendar has it<input v-model="form.date" type="date" required /></label>
        <label>Time, as their clock shows it<input v-model="form.time" type="time" required /></label>
        <label
          >Their time zone
          <select v-model="form.timeZone">
            <option v-for="zone in zones" :key="zone">{{ zone }}</option>
          </select>
        </label>
        <label>Minutes<input v-model.number="form.minutes" type="number" min="5" max="480" required /></label>
        <label class="wide"
          >What it is about<NInput placeholder="" v-model:value="form.purpose" :input-props="{ required: true }"
        /></label>
        <label>Ticket<NInput placeholder="" v-model:value="form.ticketRef" /></label>
        <label>Telephone, for a reminder<NInput placeholder="" v-model:value="form.telephone" /></label>
        <label
          >Language
          <select v-model="form.language">
            <option v-for="l in languages" :key="l" :value="l">{{ languageNames[l] }}</option>
          </select>
        </label>
        <span><NButton attr-type="submit" type="primary" :loading="isBusy">Book it</NButton></span>
      </form>
    </details>
    <p v-if="told" role="status">{{ told }}</p>
    <p v-if="trouble" role="alert" class="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
h3 {
  margin: 0.4rem 0 0.2rem;
  font-size: 1rem;
}
li {
  display: flex;
  flex-wrap: wrap;
  justify-content: space-between;
  gap: 0.4rem 0.8rem;
  align-items: center;
}
p {
  margin: 0;
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: end;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(15rem, 100%), 1fr));
  gap: 0.5rem;
  margin-top: 0.5rem;
}
.wide {
  grid-column: 1 / -1;
  width: 100%;
}
label {
  display: grid;
  gap: 0.15rem;
}
</style>
