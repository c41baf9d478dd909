<script setup lang="ts">
/** A button that takes a file and gives it, with its text where that is asked for. */
const props = defineProps<{ label: string; accept: string; name?: string; binary?: boolean }>()
const emit = defineEmits<{ picked: [text: string]; file: [file: File] }>()

async function read(event: Event) {
  const input = event.target as HTMLInputElement
  const file = input.files?.[0]
  if (file && props.binary) emit('file', file)
  else if (file) emit('picked', await file.text())
  input.value = ''
}
</script>

<template>
  <label class="plain pick">
    {{ label }}
    <input type="file" :accept="accept" :aria-label="name ?? label" @change="read" />
  </label>
</template>

<style scoped>
.pick {
  position: relative;
  overflow: hidden;
}
input {
  position: absolute;
  inset: 0;
  opacity: 0;
  cursor: pointer;
}
.pick:focus-within {
  outline: 3px solid var(--accent);
  outline-offset: 2px;
}
</style>
