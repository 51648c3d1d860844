<script setup lang="ts">
import { customersAct, languageTags } from '@porch/core';
import type { ReceiptView } from '@porch/wire';
import { ref, shallowRef, watch } from 'vue';
import { goTo, inWords, rest } from './door.ts';
import { Folded, Said } from '@porch/pages';
import { language, ledger, speech, stageInWords, w } from './words/index.ts';

const receipt = shallowRef<ReceiptView>();
const trouble = ref('');
const paper = ref<HTMLElement>();

watch(
  language,
  async () => {
    try {
      receipt.value = await rest.receipt(language.value);
    } catch (error) {
      trouble.value = inWords(error);
    }
  },
  { immediate: true },
);

function byWhom({ deskName: desk, technicians, ticketRef: ref }: ReceiptView) {
  const { receipt: said } = w.value;
  const people = speech.value.list(technicians);
  if (people) return ref ? said.byPeopleTicket({ desk, people, ref }) : said.byPeople({ desk, people });
  return ref ? said.byDeskTicket({ desk, ref }) : said.byDesk({ desk });
}

/** The receipt as one file that needs nothing else: what stands on the page, with its few rules of looks. */
function keep(): void {
  const { deskName, sessionId } = receipt.value ?? { deskName: '', sessionId: '' };
  const page = document.implementation.createHTMLDocument(deskName);
  page.documentElement.lang = languageTags[language.value];
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
  a.download = `${w.value.receipt.fileName}-${sessionId.slice(0, 8)}.html`;
  a.click();
  setTimeout(() => URL.revokeObjectURL(a.href), 10_000);
}
</script>

<template>
  <main>
    <p v-if="trouble" class="trouble" role="alert">{{ trouble }}</p>
    <p v-else-if="!receipt" role="status">{{ w.receipt.writing }}</p>
    <template v-else>
      <h1>
        {{ receipt.phase === 'ended' || receipt.phase === 'logged' ? w.receipt.ended : w.receipt.soFar }}
      </h1>
      <p>{{ w.receipt.nobodySees }}</p>
      <section v-if="receipt.isSuspect" class="card asks">
        <h2>{{ w.receipt.suspect }}</h2>
        <p>{{ w.receipt.told }}</p>
        <p v-if="receipt.deskPhone">
          {{ w.receipt.number({ desk: receipt.deskName, phone: receipt.deskPhone }) }}
        </p>
      </section>
      <p>
        <button class="first" data-test="keep-receipt" @click="keep">{{ w.receipt.keep }}</button>
      </p>
      <section ref="paper" class="card">
        <p>
          <Said :of="byWhom(receipt)"
            ><template #b="{ text }"
              ><b>{{ text }}</b></template
            ></Said
          >
        </p>
        <p v-if="receipt.startedAtMs">
          {{
            w.receipt.started({
              when: speech.dayAndTime(receipt.startedAtMs),
              minutes: speech.minutes(receipt.minutes),
            })
          }}
        </p>
        <template v-if="receipt.allowed.length">
          <h2>{{ w.receipt.allowed }}</h2>
          <ul data-test="allowed">
            <li v-for="(a, i) in receipt.allowed" :key="i">
              {{
                w.receipt.allowedFrom({
                  name: a.name,
                  what: customersAct(a.permission, ledger),
                  from: speech.clock(a.fromMs),
                  to: a.toMs ? speech.clock(a.toMs) : '…',
                })
              }}
            </li>
          </ul>
        </template>
        <template v-if="receipt.files.length">
          <h2>{{ w.receipt.files }}</h2>
          <ul>
            <li v-for="(f, i) in receipt.files" :key="i">
              {{
                w.receipt.handed({
                  way: f.isToCustomer ? 'to' : 'from',
                  name: f.name,
                  size: speech.bytes(f.sizeBytes),
                  stage: stageInWords(f),
                })
              }}
            </li>
          </ul>
        </template>
        <p>{{ w.receipt.recorded }}</p>
        <h2>{{ w.receipt.happened }}</h2>
        <ol data-test="receipt">
          <li v-for="(line, i) in receipt.lines" :key="i">
            <span class="quiet tabular">{{ speech.clock(line.atMs) }}</span> <Folded :text="line.sentence" />
          </li>
        </ol>
        <p class="quiet head">
          {{ w.receipt.head({ head: `${receipt.head.seq}:${receipt.head.hash}` }) }}<br />{{ w.receipt.headNote }}
        </p>
      </section>
      <p>
        <a href="/help" @click.prevent="goTo('/help')">{{ w.receipt.again }}</a>
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
