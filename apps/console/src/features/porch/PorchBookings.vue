<script setup lang="ts">
import { inBackground } from '@porch/client';
import { Said } from '@porch/pages';
import type { BookingView } from '@porch/wire';
import { NButton, NTable } from 'naive-ui';
import { computed, reactive, ref } from 'vue';
import { useRouter } from 'vue-router';
import { useDesk } from '../../desk.ts';
import { exactly } from '../../times.ts';
import { useAttempt } from '../../use-attempt.ts';
import { ownZone } from './own-zone.ts';
import { speech, w } from '../../words/index.ts';

const props = defineProps<{ bookings: readonly BookingView[] }>();
const { rest } = useDesk();
const router = useRouter();
const { trouble, told, attempt } = useAttempt();
const moving = ref('');
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
const open = ({ sessionId }: BookingView) => inBackground('opening a booking', router.push(`/session/${sessionId}`));
</script>

<template>
  <section aria-labelledby="booked">
    <h2 id="booked">{{ w.bookings.title }}</h2>
    <p v-if="!bookings.length" class="quiet">{{ w.bookings.nothing }}</p>
    <template v-for="[day, list] in byDay" :key="day">
      <h3>{{ dayName(day) }}</h3>
      <NTable size="small" class="porch-rows">
        <thead class="heard">
          <tr>
            <th scope="col">{{ w.waiting.columns.about }}</th>
            <th scope="col" class="acts">{{ w.waiting.columns.acts }}</th>
          </tr>
        </thead>
        <tbody v-for="b in list" :key="b.id" data-test="booking">
          <tr data-row tabindex="-1" :aria-label="b.customerName">
            <td :title="b.purpose">
              <Said :of="rowOf(b)"
                ><template #b="{ text }"
                  ><b class="tabular" :title="exactly(b.startsAtMs)">{{ text }}</b></template
                ></Said
              >
              · {{ b.purpose }}
            </td>
            <td class="acts">
              <NButton size="tiny" data-main :aria-label="w.caller.openOf({ what: b.purpose })" @click="open(b)">{{
                w.bookings.open
              }}</NButton>
              <NButton size="tiny" :aria-expanded="moving === b.id" @click="startMoving(b)">{{
                w.bookings.move
              }}</NButton>
              <NButton size="tiny" :aria-label="w.bookings.cancelOf({ name: b.customerName })" @click="cancel(b)">{{
                w.bookings.cancel
              }}</NButton>
            </td>
          </tr>
          <tr v-if="b.delivery === 'failed'">
            <td colspan="2" class="alert">{{ w.bookings.mailFailed({ why: b.why ?? '' }) }}</td>
          </tr>
          <tr v-if="moving === b.id">
            <td colspan="2">
              <form class="move" @submit.prevent="move(b)">
                <label>{{ w.bookings.date }}<input v-model="to.date" type="date" required /></label>
                <label>{{ w.bookings.time }}<input v-model="to.time" type="time" required /></label>
                <NButton size="small" type="primary" attr-type="submit">{{ w.bookings.moveIt }}</NButton>
              </form>
            </td>
          </tr>
        </tbody>
      </NTable>
    </template>
    <p v-if="told" role="status">{{ told }}</p>
    <p v-if="trouble" role="alert" class="alert">{{ trouble }}</p>
  </section>
</template>

<style scoped>
h3 {
  margin: 0.3rem 0 0.2rem;
  font-size: 1rem;
}
p {
  margin: 0;
}
.acts {
  width: 13rem;
}
.move {
  display: flex;
  flex-wrap: wrap;
  gap: 0.5rem;
  align-items: end;
}
label {
  display: grid;
  gap: 0.15rem;
}
</style>
