<script setup lang="ts">
/** What the trade's words mean here, with a small drawing each. */
import { t } from './words'
import { computed } from 'vue'
import { GLOSSARY, useGlossary, type Term } from './glossary'
import TermDrawing from './TermDrawing.vue'

const { shown } = useGlossary()
const open = computed({
  get: () => shown.value !== null,
  set: (now) => {
    if (!now) shown.value = null
  },
})
const terms = computed(() => {
  const all = Object.keys(GLOSSARY) as Term[]
  return shown.value ? [shown.value] : all
})
</script>

<template>
  <el-dialog v-model="open" align-center :title="t('Words')" width="min(620px, 94vw)">
    <dl>
      <div v-for="term in terms" :key="term">
        <TermDrawing :term="term" />
        <dt>{{ GLOSSARY[term][0] }}</dt>
        <dd>{{ GLOSSARY[term][1] }}</dd>
      </div>
    </dl>
    <button v-if="shown" type="button" class="plain" @click="shown = ''">
      {{ t('All words') }}
    </button>
  </el-dialog>
</template>

<style scoped>
dl {
  margin: 0;
  max-height: 66vh;
  overflow: auto;
}
div {
  display: grid;
  grid-template-columns: 96px 1fr;
  gap: 0 14px;
  padding: 8px 0;
  border-top: 1px solid var(--rule);
}
dt {
  font-weight: 600;
}
dd {
  grid-column: 2;
  margin: 0;
  line-height: 1.35;
}
svg {
  grid-row: 1 / span 2;
}
</style>
