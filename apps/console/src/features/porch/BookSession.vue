<script setup lang="ts">
import { languageNames, languages } from '@porch/core';
import type { TechnicianView } from '@porch/wire';
import { NButton, NInput } from 'naive-ui';
import { reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { ownZone } from './own-zone.ts';
import { language, w } from '../../words/index.ts';

const { rest } = useDesk();
const { trouble, told, isBusy, attempt } = useAttempt();
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
  await attempt(async () => void (colleagues.value = await rest.colleagues()));
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
</script>

<template>
  <section>
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
p {
  margin: 0;
}
.grid {
  display: grid;
  grid-template-columns: repeat(auto-fit, minmax(min(12rem, 100%), 1fr));
  gap: 0.5rem;
  margin-top: 0.5rem;
}
.wide {
  grid-column: 1 / -1;
}
label {
  display: grid;
  gap: 0.15rem;
  min-width: 0;
}
</style>
