<script setup lang="ts">
defineProps<{ id: string; label: string; isFolder?: boolean }>();
const emit = defineEmits<{ chosen: [files: File[]] }>();
function changed(event: Event): void {
  const picker = event.target as HTMLInputElement;
  emit('chosen', [...(picker.files ?? [])]);
  // The same again is a choice, too.
  picker.value = '';
}
</script>

<template>
  <span>
    <input
      :id="id"
      class="only-heard"
      type="file"
      multiple
      :webkitdirectory="isFolder || undefined"
      :data-test="id"
      @change="changed"
    />
    <label :for="id" class="choose">{{ label }}</label>
  </span>
</template>

<style scoped>
.choose {
  display: inline-block;
  padding: 0.2rem 0.7rem;
  border: 1px solid var(--accent);
  border-radius: 8px;
  color: var(--accent);
  cursor: pointer;
}
input:focus-visible + .choose {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
</style>
