<script setup lang="ts">
/** The values behind a curve as a table, on request. */
import { t } from './words'
import { ref } from 'vue'

defineProps<{ title: string; heads: string[]; rows: () => string[][] }>()
const open = ref(false)
</script>

<template>
  <button
    type="button"
    class="plain"
    aria-haspopup="dialog"
    :aria-label="t('Values: {title}', { title })"
    @click="open = true"
  >
    {{ t('Values') }}
  </button>
  <el-dialog v-model="open" align-center append-to-body :title="title" width="min(560px, 94vw)">
    <div class="scroll" tabindex="0" :aria-label="title">
      <table v-if="open">
        <thead>
          <tr>
            <th v-for="head in heads" :key="head" scope="col">{{ head }}</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(row, i) in rows()" :key="i">
            <td v-for="(cell, k) in row" :key="k">{{ cell }}</td>
          </tr>
        </tbody>
      </table>
    </div>
  </el-dialog>
</template>

<style scoped>
.scroll {
  max-height: 60vh;
  overflow: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-variant-numeric: tabular-nums;
}
th,
td {
  padding: 3px 8px;
  text-align: right;
  border-bottom: 1px solid var(--rule);
}
th {
  position: sticky;
  top: 0;
  background: var(--page);
}
</style>
