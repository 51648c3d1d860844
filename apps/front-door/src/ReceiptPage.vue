<script setup lang="ts">
import { customerPermissionWords, formatBytes, languageTags } from '@porch/core';
import type { ReceiptView } from '@porch/wire';
import { ref, shallowRef, watch } from 'vue';
import { useI18n } from 'vue-i18n';
import { goTo, inWords, rest } from './door.ts';
import { clock, dayAndTime, language } from './words/index.ts';

const { t, locale } = useI18n();
const receipt = shallowRef<ReceiptView>();
const trouble = ref('');
const paper = ref<HTMLElement>();

watch(
  locale,
  async () => {
    try {
      receipt.value = await rest.receipt(language());
    } catch (error) {
      trouble.value = inWords(error);
    }
  },
  { immediate: true },
);

/** The receipt as one file that needs nothing else: what stands on the page, with its few rules of looks. */
function keep(): void {
  const { deskName, sessionId } = receipt.value ?? { deskName: '', sessionId: '' };
  const page = document.implementation.createHTMLDocument(deskName);
  page.documentElement.lang = languageTags[language()];
  const meta = page.createElement('meta');
  meta.setAttribute('charset', 'utf-8');
  page.head.prepend(meta);
  const style = page.createElement('style');
  style.textContent =
    'body{font:16px/1.5 sans-serif;max-width:44rem;margin:2rem auto;padding:0 1rem;color:#1d2b2c}section{border-top:1px solid #d8cfbb;padding:.3rem 0}.head{overflow-wrap:anywhere;font-size:.85rem}';
  page.head.append(style);
  page.body.innerHTML = paper.value?.innerHTML ?? '';
  const file = new Blob([`<!doctype html>\n${page.documentElement.outerHTML}`], { type: 'text/html' });
  const a = document.createElement('a');
  a.href = URL.createObjectURL(file);
  a.download = `${t('receipt.fileName')}-${sessionId.slice(0, 8)}.html`;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}
</script>

<template>
  <main>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <p v-else-if="!receipt" role="status">{{ t('receipt.writing') }}</p>
    <template v-else>
      <h1>
        {{ receipt.phase === 'ended' || receipt.phase === 'logged' ? t('receipt.ended') : t('receipt.soFar') }}
      </h1>
      <p>{{ t('receipt.nobodySees') }}</p>
      <section v-if="receipt.isSuspect" class="card asks">
        <h2>{{ t('receipt.suspect') }}</h2>
        <p>{{ t('receipt.told') }}</p>
        <p v-if="receipt.deskPhone">
          {{ t('receipt.number', { desk: receipt.deskName, phone: receipt.deskPhone }) }}
        </p>
      </section>
      <p>
        <button class="first" data-test="keep-receipt" @click="keep">{{ t('receipt.keep') }}</button>
      </p>
      <section ref="paper" class="card">
        <p>
          <b>{{ receipt.deskName }}</b><template v-if="receipt.technicians.length"
            >: {{ receipt.technicians.join(', ') }}</template
          ><template v-if="receipt.ticketRef">, {{ t('receipt.ticket', { ref: receipt.ticketRef }) }}</template>
        </p>
        <p v-if="receipt.startedAtMs">
          {{ dayAndTime(receipt.startedAtMs) }}, {{ t('receipt.minutes', { minutes: receipt.minutes }) }}
        </p>
        <template v-if="receipt.allowed.length">
          <h2>{{ t('receipt.allowed') }}</h2>
          <ul data-test="allowed">
            <li v-for="(a, i) in receipt.allowed" :key="i">
              {{ t('session.may', { name: a.name, what: customerPermissionWords[language()][a.permission] }) }}:
              {{ t('receipt.from', { from: clock(a.fromMs), to: a.toMs ? clock(a.toMs) : '…' }) }}
            </li>
          </ul>
        </template>
        <template v-if="receipt.files.length">
          <h2>{{ t('receipt.files') }}</h2>
          <ul>
            <li v-for="(f, i) in receipt.files" :key="i">
              {{ f.isToCustomer ? '→' : '←' }} {{ f.name }} ({{ formatBytes(f.sizeBytes) }}),
              {{ t(`files.${f.stage}`, { percent: 0 }) }}
            </li>
          </ul>
        </template>
        <p>{{ t('receipt.recorded') }}</p>
        <h2>{{ t('receipt.happened') }}</h2>
        <ol data-test="receipt">
          <li v-for="(line, i) in receipt.lines" :key="i">
            <span class="quiet tabular">{{ clock(line.atMs) }}</span> {{ line.sentence }}
          </li>
        </ol>
        <p class="quiet head">
          {{ t('receipt.head', { head: `${receipt.head.seq}:${receipt.head.hash}` }) }}<br />{{ t('receipt.headNote') }}
        </p>
      </section>
      <p>
        <a href="/help" @click.prevent="goTo('/help')">{{ t('receipt.again') }}</a>
      </p>
    </template>
  </main>
</template>

<style scoped>
ol,
ul {
  padding-left: 1.2rem;
}
.head {
  overflow-wrap: anywhere;
  font-size: 0.85rem;
}
</style>
