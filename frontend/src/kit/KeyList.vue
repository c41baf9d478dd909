<script setup lang="ts">
import { useGlossary } from './glossary'
import { keysInView, singleKeys } from './keys'

const open = defineModel<boolean>({ required: true })
const { lookUp } = useGlossary()
</script>

<template>
  <el-dialog v-model="open" align-center title="Keys" width="min(420px, 92vw)">
    <dl>
      <template v-for="key in keysInView" :key="key.key">
        <dt>
          <kbd>{{ key.shown ?? key.key.toUpperCase() }}</kbd>
        </dt>
        <dd>{{ key.does }}</dd>
      </template>
    </dl>
    <label class="single"
      ><input v-model="singleKeys" type="checkbox" /> Single keys work outside fields</label
    >
    <p>
      <button type="button" class="plain" @click="((open = false), lookUp(''))">Words</button>
      <slot />
    </p>
  </el-dialog>
</template>

<style scoped>
dl {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 6px 16px;
  margin: 0;
  font-size: 16px;
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
