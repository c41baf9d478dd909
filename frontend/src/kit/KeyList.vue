<script setup lang="ts">
import { t } from './words'
import { useGlossary } from './glossary'
import { keysInView, singleKeys } from './keys'

defineProps<{
  /** The station's name, what is done there, and what to be careful of. */
  station: string
  steps: string[]
  cautions: string[]
}>()
const open = defineModel<boolean>({ required: true })
const { lookUp } = useGlossary()
</script>

<template>
  <el-dialog
    v-model="open"
    align-center
    :title="t('{station}: help', { station })"
    width="min(660px, 94vw)"
  >
    <ol v-if="steps.length" :aria-label="t('Steps')">
      <li v-for="step in steps" :key="step">{{ step }}</li>
    </ol>
    <ul v-if="cautions.length" :aria-label="t('Cautions')">
      <li v-for="caution in cautions" :key="caution">{{ caution }}</li>
    </ul>
    <h3>{{ t('Keys') }}</h3>
    <dl>
      <template v-for="key in keysInView" :key="key.key">
        <dt>
          <kbd>{{ key.shown ?? key.key.toUpperCase() }}</kbd>
        </dt>
        <dd>{{ key.does }}</dd>
      </template>
    </dl>
    <label class="single"
      ><input v-model="singleKeys" type="checkbox" />
      {{ t('Single keys work outside fields') }}</label
    >
    <p>
      <button type="button" class="plain" @click="((open = false), lookUp(''))">
        {{ t('Words') }}
      </button>
      <slot />
    </p>
  </el-dialog>
</template>

<style scoped>
ol,
ul {
  margin: 0 0 10px;
  padding-left: 22px;
  line-height: 1.3;
}
ul {
  padding: 4px 12px 4px 26px;
  border-left: 5px solid var(--accent);
  background: var(--paper);
}
h3 {
  margin: 0 0 4px;
  font-size: 16px;
}
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 4px 12px;
  margin: 0;
  font-size: 15px;
  line-height: 1.2;
}
@media (min-width: 640px) {
  dl {
    grid-template-columns: auto 1fr auto 1fr;
  }
}
dd {
  margin: 0;
}
.single {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 44px;
  margin-top: 10px;
}
kbd {
  font: inherit;
  font-weight: 600;
  border: 1px solid var(--rule);
  border-bottom-width: 3px;
  padding: 0 8px;
  background: var(--page);
}
</style>
