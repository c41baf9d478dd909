<script setup lang="ts">
/** When the shop was last backed up, and the backups to take away. */
import { decimal, t } from '../../kit/words'
import { useQuery } from '@tanstack/vue-query'
import { answer, api } from '../../api/client'
import { clock, day } from '../../kit/format'

const { data: backups } = useQuery({
  queryKey: ['backups'],
  queryFn: () => answer(api.GET('/api/backups')),
})
const size = (bytes: number) => `${decimal((bytes / 1e6).toFixed(1))} MB`
</script>

<template>
  <details v-if="backups?.length" class="quiet backups">
    <summary>
      {{
        t('Backed up {made_at} {made_at2}: keep one on another machine', {
          made_at: day(backups[0]!.made_at),
          made_at2: clock(backups[0]!.made_at),
        })
      }}
    </summary>
    <ul>
      <li v-for="backup in backups" :key="backup.name">
        <a :href="`/api/backups/${backup.name}`" :download="backup.name">{{ backup.name }}</a>
        {{ size(backup.size) }}
      </li>
    </ul>
  </details>
</template>

<style scoped>
.backups {
  padding: 10px 0;
}
summary {
  padding: 14px 0;
  cursor: pointer;
}
ul {
  margin: 6px 0 0;
  padding: 0 0 0 18px;
}
a {
  display: inline-block;
  padding: 14px 0;
}
</style>
