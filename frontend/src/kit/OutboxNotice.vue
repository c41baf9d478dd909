<script setup lang="ts">
/** What waits for the server or was refused out of sight, and a list to act on it. */
import { t } from './words'
import { computed, ref } from 'vue'
import { choicesOf } from '../api/client'
import { clock } from './format'
import { forget, leftBehind } from './leftBehind'
import type { Entry } from './outbox'
import { steady } from './press'
import ProblemNote from './ProblemNote.vue'
import { useOutbox } from './useOutbox'

const { waiting, refused, retry, drop } = useOutbox()
const open = ref(false)
const listed = computed(() => [...refused.value, ...waiting.value])
const count = computed(() => listed.value.length + leftBehind.value.length)
const counted = (n: number) => (n === 1 ? t('1 reading') : t('{n} readings', { n }))
const words = steady(() =>
  [
    refused.value.length ? t('{refused} refused', { refused: counted(refused.value.length) }) : '',
    waiting.value.length
      ? t('{waiting} {waiting2} for the server', {
          waiting: counted(waiting.value.length),
          waiting2: waiting.value.length === 1 ? t('waits') : t('wait'),
        })
      : '',
    leftBehind.value.length
      ? t('{n} not kept', {
          n:
            leftBehind.value.length === 1
              ? t('1 change')
              : t('{n} changes', { n: leftBehind.value.length }),
        })
      : '',
  ]
    .filter(Boolean)
    .join(', '),
)
function copy(entry: Entry) {
  void navigator.clipboard.writeText(`${entry.words}\n${JSON.stringify(entry.body)}`)
}
</script>

<template>
  <button v-if="words" type="button" class="notice" role="status" @click="open = true">
    {{ words }}
  </button>
  <el-dialog
    v-if="count || open"
    v-model="open"
    :title="t('Not kept by the server yet')"
    width="560px"
    align-center
  >
    <p v-if="!count">{{ t('Everything is kept.') }}</p>
    <p v-else-if="listed.some((entry) => entry.unstored)" class="unstored">
      {{ t('This browser stores nothing now: leave this page open until they are kept.') }}
    </p>
    <ol v-if="count">
      <li v-for="entry in listed" :key="entry.key">
        <span>
          <b>{{ entry.words }}</b>
          <small>{{ clock(new Date(entry.at).toISOString()) }} · {{ entry.problem?.detail }}</small>
        </span>
        <span v-if="choicesOf(entry.problem).length" class="choices">
          <button
            v-for="choice in choicesOf(entry.problem)"
            :key="choice.words"
            type="button"
            class="plain"
            @click="retry(entry.key, choice.change)"
          >
            {{ choice.words }}
          </button>
        </span>
        <button v-else type="button" class="plain" @click="retry(entry.key)">
          {{ t('Send again') }}
        </button>
        <button type="button" class="plain" @click="copy(entry)">{{ t('Copy') }}</button>
        <button type="button" class="plain" @click="drop(entry.key)">{{ t('Discard') }}</button>
      </li>
      <li v-for="(left, i) in leftBehind" :key="i">
        <span>
          <b>{{ left.what }}</b>
          <ProblemNote :problem="left.problem" />
        </span>
        <RouterLink class="plain" :to="left.page" @click="((open = false), forget(left))">{{
          t('Enter it again')
        }}</RouterLink>
        <button type="button" class="plain" @click="forget(left)">{{ t('Discard') }}</button>
      </li>
    </ol>
  </el-dialog>
</template>

<style scoped>
.notice {
  min-height: 44px;
  max-width: 104px;
  padding: 2px 6px;
  line-height: 1.1;
  text-align: left;
  border: 2px solid var(--alarm);
  background: none;
  color: var(--ink);
  font-size: 14px;
  cursor: pointer;
}
ol {
  list-style: none;
  margin: 0;
  padding: 0;
}
li {
  display: grid;
  grid-template-columns: 1fr auto auto auto;
  gap: 8px;
  align-items: center;
  padding: 10px 0;
  border-top: 1px solid var(--rule);
  font-size: 16px;
}
.choices {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
small {
  display: block;
  color: var(--quiet);
  font-size: 14px;
}
@media (max-width: 600px) {
  li {
    grid-template-columns: repeat(3, auto);
  }
  li > span {
    grid-column: 1 / -1;
  }
}
.unstored {
  margin: 0 0 10px;
  font-weight: 600;
}
</style>
