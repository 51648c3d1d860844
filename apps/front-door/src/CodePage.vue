<script setup lang="ts">
import { formatCode, readCode, readSecondNumber } from '@porch/core';
import { AppError } from '@porch/wire';
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue';
import { askDesk, goTo, inWords, rest } from './door.ts';
import { w } from './words/index.ts';

const typed = ref('');
const trouble = ref('');
const isSecondNeeded = ref(false);
const typedSecond = ref('');
const second = computed(() => readSecondNumber(typedSecond.value));
const secondField = useTemplateRef<HTMLInputElement>('secondField');
const isBusy = ref(false);
const deskName = ref('');
const phone = ref('');
const reading = computed(() => readCode(typed.value));
const hint = computed(() => {
  if (reading.value.kind === 'mistyped') return w.value.code.mistyped;
  if (reading.value.kind === 'notDigits') return w.value.code.notDigits;
  return '';
});
onMounted(async () => {
  // Typed in the box on another page: it is shown here once more, and the person goes on themselves.
  const given = /^#code=(\d{8})$/.exec(location.hash)?.[1];
  if (given) {
    typed.value = formatCode(given);
    history.replaceState(undefined, '', location.pathname);
  }
  const desk = await askDesk().catch(() => undefined); // The page works without its name.
  deskName.value = desk?.deskName ?? '';
  phone.value = desk?.deskPhone ?? '';
});
function group(): void {
  if (reading.value.kind === 'code') typed.value = formatCode(reading.value.digits);
}
async function join(): Promise<void> {
  if (reading.value.kind !== 'code') return;
  isBusy.value = true;
  trouble.value = '';
  try {
    await rest.join({
      code: reading.value.digits,
      ...(second.value === undefined ? {} : { secondNumber: second.value }),
      as: 'page',
    });
    goTo('/session');
  } catch (error) {
    const isFirstAsk = error instanceof AppError && error.code === 'CODE_SECOND_NEEDED' && !isSecondNeeded.value;
    // The field that appears says why itself.
    if (!isFirstAsk) return void (trouble.value = inWords(error));
    isSecondNeeded.value = true;
    await nextTick();
    secondField.value?.focus();
  } finally {
    isBusy.value = false;
  }
}
</script>

<template>
  <main>
    <p v-if="deskName" class="quiet">{{ deskName }}</p>
    <h1>{{ w.code.title }}</h1>
    <form @submit.prevent="join">
      <label for="code">{{ w.code.label }}</label>
      <input
        id="code"
        v-model="typed"
        class="code"
        inputmode="numeric"
        autocomplete="off"
        autofocus
        maxlength="12"
        placeholder="0000 0000"
        aria-describedby="code-hint"
        :aria-invalid="hint !== ''"
        @input="group"
      />
      <template v-if="isSecondNeeded">
        <label for="second">{{ w.code.second }}</label>
        <input
          id="second"
          ref="secondField"
          v-model="typedSecond"
          class="code"
          inputmode="numeric"
          autocomplete="off"
          maxlength="9"
          placeholder="000 000"
          aria-describedby="second-why"
        />
        <p id="second-why" class="quiet">{{ w.code.secondWhy }}</p>
      </template>
      <p id="code-hint" class="trouble" aria-live="polite">{{ hint || trouble }}</p>
      <button class="first" :disabled="reading.kind !== 'code' || isBusy || (isSecondNeeded && second === undefined)">
        {{ w.code.go }}
      </button>
    </form>
    <section class="card">
      <h2>{{ w.code.none }}</h2>
      <p>
        <Said :of="phone ? w.code.askOrCall({ phone }) : w.code.askOnly">
          <template #ask="{ text }"
            ><a href="/help" @click.prevent="goTo('/help')">{{ text }}</a></template
          >
        </Said>
      </p>
    </section>
  </main>
</template>
