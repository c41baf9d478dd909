<script setup lang="ts">
/** What stands before everything else while nobody is let in yet. */
defineProps<{ title: string }>()
defineEmits<{ enter: [] }>()
</script>

<template>
  <div class="door" role="dialog" aria-modal="true" :aria-label="title">
    <form @submit.prevent="$emit('enter')">
      <svg viewBox="0 0 40 24" aria-hidden="true">
        <path d="M3 18 L18 7 L36 13" />
        <circle cx="18" cy="7" r="4.5" />
      </svg>
      <h1>{{ title }}</h1>
      <slot />
    </form>
  </div>
</template>

<style scoped>
.door {
  position: fixed;
  inset: 0;
  z-index: 3000;
  display: grid;
  place-items: center;
  overflow: auto;
  padding: 16px;
  background: var(--page);
}
form {
  display: flex;
  flex-direction: column;
  gap: 10px;
  width: min(360px, 100%);
}
svg {
  width: 72px;
}
path {
  fill: none;
  stroke: var(--accent);
  stroke-width: 5;
  stroke-linejoin: round;
  stroke-linecap: round;
}
circle {
  fill: var(--page);
  stroke: var(--ink);
  stroke-width: 2;
}
h1 {
  margin: 0;
  font-size: 28px;
}
form :slotted(label),
form :slotted(.quiet) {
  margin: 0;
  font-size: 15px;
  color: var(--quiet);
}
form :slotted(.unlike) {
  margin: 0;
  color: var(--alarm-ink);
}
form :slotted(.plain) {
  min-height: 52px;
  text-align: center;
  line-height: 50px;
}
</style>
