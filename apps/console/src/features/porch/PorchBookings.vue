<script setup lang="ts">
import { Said } from '@porch/pages';
import { languageNames, languages } from '@porch/core';
import type { BookingView, TechnicianView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { inWords } from '../../in-words.ts';
import { exactly } from '../../times.ts';
import { language, speech, w } from '../../words/index.ts';

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
  language: language.value,
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
  day === new Date().toDateString() ? w.value.bookings.today : speech.value.day(Date.parse(day));
function rowOf({ startsAtMs, customerName: name, minutes, timeZone: zone, wallTime }: BookingView) {
  const about = { time: speech.value.clock(startsAtMs), name, minutes: speech.value.minutes(minutes) };
  const { bookings } = w.value;
  return zone === ownZone ? bookings.row(about) : bookings.rowElsewhere({ ...about, there: wallTime.time, zone });
}

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
  }, w.value.bookings.booked);
function startMoving(b: BookingView): void {
  moving.value = moving.value === b.id ? '' : b.id;
  Object.assign(to, { ...b.wallTime, minutes: b.minutes });
}
const move = (b: BookingView) =>
  attempt(async () => {
    await rest.moveBooking(b.id, to);
    moving.value = '';
  }, w.value.bookings.moved);
const cancel = (b: BookingView) => attempt(() => rest.cancelBooking(b.id, ''), w.value.bookings.cancelled);
</script>

<template>
  <section aria-labelledby="booked">
    <h2 id="booked">{{ w.bookings.title }}</h2>
    <p v-if="!bookings.length" class="quiet">{{ w.bookings.nothing }}</p>
    <template v-for="[day, list] in byDay" :key="day">
      <h3>{{ dayName(day) }}</h3>
      <ul class="rows">
        <li v-for="b in list" :key="b.id" class="card" data-test="booking">
          <div>
            <Said :of="rowOf(b)"
              ><template #b="{ text }"
                ><b class="tabular" :title="exactly(b.startsAtMs)">{{ text }}</b></template
              ></Said
            >
            <p>{{ b.purpose }}</p>
            <p v-if="b.delivery === 'failed'" class="alert">{{ w.bookings.mailFailed({ why: b.why ?? '' }) }}</p>
          </div>
          <span class="row">
            <NButton size="small" @click="router.push(`/session/${b.sessionId}`)">{{ w.bookings.open }}</NButton>
            <NButton size="small" :aria-expanded="moving === b.id" @click="startMoving(b)">{{
              w.bookings.move
            }}</NButton>
            <NButton size="small" :aria-label="w.bookings.cancelOf({ name: b.customerName })" @click="cancel(b)">{{
              w.bookings.cancel
            }}</NButton>
          </span>
          <form v-if="moving === b.id" class="row wide" @submit.prevent="move(b)">
            <label>{{ w.bookings.date }}<input v-model="to.date" type="date" required /></label>
            <label>{{ w.bookings.time }}<input v-model="to.time" type="time" required /></label>
            <NButton size="small" type="primary" attr-type="submit">{{ w.bookings.moveIt }}</NButton>
          </form>
        </li>
      </ul>
    </template>
    <details data-test="book" @toggle="readColleagues">
      <summary>{{ w.bookings.book }}</summary>
      <form class="grid" @submit.prevent="book">
        <label
          >{{ w.bookings.whose
          }}<select v-model="form.technicianId">
            <option value="">{{ w.bookings.own }}</option>
            <option v-for="c in colleagues" :key="c.id" :value="c.id">
              {{ w.bookings.colleague({ name: c.name, team: c.team }) }}
            </option>
          </select></label
        >
        <label
          >{{ w.bookings.customer
          }}<NInput placeholder="" v-model:value="form.customerName" :input-props="{ required: true }"
        /></label>
        <label
          >{{ w.bookings.email
          }}<NInput placeholder="" v-model:value="form.address" :input-props="{ required: true, type: 'email' }"
        /></label>
        <label>{{ w.bookings.dateThere }}<input v-model="form.date" type="date" required /></label>
        <label>{{ w.bookings.timeThere }}<input v-model="form.time" type="time" required /></label>
        <label
          >{{ w.bookings.zoneThere }}
          <select v-model="form.timeZone">
            <option v-for="zone in zones" :key="zone">{{ zone }}</option>
          </select>
        </label>
        <label
          >{{ w.bookings.minutes }}<input v-model.number="form.minutes" type="number" min="5" max="480" required
        /></label>
        <label class="wide"
          >{{ w.bookings.about }}<NInput placeholder="" v-model:value="form.purpose" :input-props="{ required: true }"
        /></label>
        <label>{{ w.bookings.ticket }}<NInput placeholder="" v-model:value="form.ticketRef" /></label>
        <label>{{ w.bookings.telephone }}<NInput placeholder="" v-model:value="form.telephone" /></label>
        <label
          >{{ w.bookings.language }}
          <select v-model="form.language">
            <option v-for="l in languages" :key="l" :value="l">{{ languageNames[l] }}</option>
          </select>
        </label>
        <span
          ><NButton attr-type="submit" type="primary" :loading="isBusy">{{ w.bookings.bookIt }}</NButton></span
        >
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
