<script setup lang="ts">
/** A word of the trade that opens its meaning. */
import { t } from './words'
import { GLOSSARY, useGlossary, type Term } from './glossary'

defineProps<{ term: Term }>()
const { lookUp } = useGlossary()
</script>

<template>
  <button
    type="button"
    class="term"
    :aria-label="t('What is: {GLOSSARY}', { GLOSSARY: GLOSSARY[term][0] })"
    @click="lookUp(term)"
  >
    <slot>{{ GLOSSARY[term][0] }}</slot>
  </button>
</template>

<style scoped>
.term {
  min-width: 44px;
  min-height: 44px;
  margin: -13px 0;
  padding: 0;
  font: inherit;
  text-align: inherit;
  color: inherit;
  background: none;
  border: 0;
  text-decoration: underline dotted;
  text-underline-offset: 3px;
  cursor: help;
}
</style>
