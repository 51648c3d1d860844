<script setup lang="ts">
import {
  allPermissions,
  MAX_ACTION_CHARACTERS,
  runbookFaults,
  runbookInterpreters,
  runbookKinds,
  techniciansAct,
  type RunbookFault,
} from '@porch/core';
import { AppError, runbookScopes, type RunbookActionWhole } from '@porch/wire';
import { NAlert, NButton, NInput } from 'naive-ui';
import { computed, onMounted, reactive, ref } from 'vue';
import { useDesk } from '../../desk.ts';
import { useAttempt } from '../../use-attempt.ts';
import { ledger, w } from '../../words/index.ts';
import { nameFrom } from '../library/text-files.ts';
import { useTopics } from '../library/use-topics.ts';
import { actionFrom, formOf } from './action-form.ts';
import ParametersField from './ParametersField.vue';

/* An action is written here: what it is, what it asks for, and what is run. */
const props = defineProps<{ found: RunbookActionWhole | undefined }>();
const emit = defineEmits<{ written: [action: RunbookActionWhole]; close: [] }>();
const { rest } = useDesk();
const form = reactive(formOf(props.found?.action, props.found?.scope));
const { topics, readTopics } = useTopics();
const faults = ref<readonly RunbookFault[]>([]);
const { trouble, isBusy, attempt } = useAttempt();
onMounted(() => attempt(readTopics));

const suggested = computed(() => nameFrom(form.title));
const basedOn = computed(() => {
  const { found } = props;
  return found && form.name === found.name && form.scope === found.scope ? found.id : undefined;
});
const write = () =>
  attempt(async () => {
    faults.value = [];
    try {
      const action = actionFrom(form, form.name || suggested.value, props.found?.action);
      const based = basedOn.value === undefined ? {} : { basedOn: basedOn.value };
      emit('written', await rest.writeRunbookAction({ action, scope: form.scope, ...based }));
    } catch (error) {
      const told = error instanceof AppError ? error.details['faults'] : undefined;
      faults.value = runbookFaults.filter((fault) => Array.isArray(told) && told.includes(fault));
      throw error;
    }
  });
</script>

<template>
  <form class="editor" @submit.prevent="write">
    <h1>{{ found ? w.runbook.edit : w.runbook.write }}</h1>
    <NAlert v-if="trouble" type="error" :show-icon="false" role="alert">
      {{ trouble }}
      <ul v-if="faults.length">
        <li v-for="fault in faults" :key="fault">{{ w.runbook.faults[fault] }}</li>
      </ul>
    </NAlert>
    <label class="wide"
      >{{ w.runbook.titleField
      }}<NInput
        v-model:value="form.title"
        placeholder=""
        :maxlength="80"
        :input-props="{ required: true, id: 'action-title' }"
    /></label>
    <label class="wide"
      >{{ w.runbook.aboutField
      }}<NInput v-model:value="form.about" type="textarea" placeholder="" :rows="2" :maxlength="500"
    /></label>
    <label
      >{{ w.runbook.kind }}
      <select v-model="form.kind" data-test="action-kind">
        <option v-for="one in runbookKinds" :key="one" :value="one">{{ w.runbook.kinds[one] }}</option>
      </select></label
    >
    <label
      >{{ w.runbook.whose }}
      <select v-model="form.scope">
        <option v-for="one in runbookScopes" :key="one" :value="one">{{ w.runbook.scopes[one] }}</option>
      </select></label
    >
    <label v-if="form.kind === 'script'"
      >{{ w.runbook.interpreter }}
      <select v-model="form.interpreter">
        <option v-for="one in runbookInterpreters" :key="one">{{ one }}</option>
      </select></label
    >
    <label v-if="form.kind === 'file'"
      >{{ w.runbook.target }}<NInput v-model:value="form.target" placeholder="" :maxlength="200"
    /></label>
    <label
      >{{ w.runbook.topic }}
      <select v-model="form.topic">
        <option value="">{{ w.runbook.noTopic }}</option>
        <option v-for="one in topics" :key="one">{{ one }}</option>
      </select></label
    >
    <label
      >{{ w.runbook.name
      }}<NInput
        v-model:value="form.name"
        :placeholder="suggested"
        :maxlength="80"
        :allow-input="(value: string) => /^[a-z0-9-]*$/.test(value)"
    /></label>
    <label class="wide"
      >{{ w.runbook.body[form.kind]
      }}<NInput
        v-model:value="form.body"
        class="body"
        type="textarea"
        placeholder=""
        :rows="14"
        :maxlength="MAX_ACTION_CHARACTERS"
        :input-props="{ required: true, id: 'action-text', spellcheck: false }"
    /></label>
    <ParametersField v-model="form.parameters" class="wide" />
    <template v-if="form.kind !== 'instruction'">
      <label class="tick"><input v-model="form.isRisky" type="checkbox" /> {{ w.runbook.isRisky }}</label>
      <label class="tick"><input v-model="form.needsAdministrator" type="checkbox" /> {{ w.runbook.rights }}</label>
      <label>{{ w.runbook.paths }}<NInput v-model:value="form.paths" type="textarea" placeholder="" :rows="2" /></label>
      <label
        >{{ w.runbook.services }}<NInput v-model:value="form.services" type="textarea" placeholder="" :rows="2"
      /></label>
      <details class="wide">
        <summary>{{ w.runbook.needsField }}</summary>
        <div role="group" class="needs" :aria-label="w.runbook.needsField">
          <label v-for="one in allPermissions" :key="one" class="tick"
            ><input v-model="form.needs" type="checkbox" :value="one" /> {{ techniciansAct(one, ledger) }}</label
          >
        </div>
      </details>
      <label
        >{{ w.runbook.limitField }}<NInput v-model:value="form.limitSeconds" placeholder="" :maxlength="4"
      /></label>
      <label>{{ w.runbook.undoField }}<NInput v-model:value="form.undo" placeholder="" :maxlength="80" /></label>
    </template>
    <label>{{ w.runbook.expected }}<NInput v-model:value="form.expectedSeconds" placeholder="" :maxlength="4" /></label>
    <div class="wide acts">
      <NButton
        attr-type="submit"
        type="primary"
        :loading="isBusy"
        :disabled="!form.title.trim() || !form.body.trim()"
        data-test="action-save"
        >{{ w.runbook.save }}</NButton
      >
      <NButton v-if="found" @click="emit('close')">{{ w.runbook.dontSave }}</NButton>
      <span class="quiet">{{ w.runbook.whatNext }}</span>
    </div>
  </form>
</template>

<style scoped>
.editor {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 0.6rem 1rem;
}
.editor > h1,
.editor > :deep(.n-alert),
.wide {
  grid-column: 1 / -1;
}
label {
  display: grid;
  gap: 0.15rem;
  align-content: start;
}
.tick {
  display: flex;
  gap: 0.4rem;
  align-items: center;
}
.needs {
  display: grid;
  grid-template-columns: repeat(auto-fill, minmax(14rem, 1fr));
  gap: 0.2rem 0.8rem;
}
.body {
  font-family: ui-monospace, monospace;
}
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0.6rem;
  align-items: center;
}
@media (max-width: 760px) {
  .editor {
    grid-template-columns: minmax(0, 1fr);
  }
}
</style>
