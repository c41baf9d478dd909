<script setup lang="ts">
/** Whoever is signed in and on what, who is where, and for an owner everybody: roles and codes. */
import { t } from '../../kit/words'
import { useQuery, useQueryClient } from '@tanstack/vue-query'
import { computed, ref } from 'vue'
import {
  answer,
  api,
  problemOf,
  type Account,
  type Device,
  type Here,
  type Problem,
  type Role,
} from '../../api/client'
import { when } from '../../kit/format'
import { isNow, me } from '../../kit/me'
import ProblemNote from '../../kit/ProblemNote.vue'
import PickOne from '../../kit/PickOne.vue'
import { called, useOthers } from '../../kit/whereabouts'
import PairOne from './PairOne.vue'

const ROLES: Record<Role, { name: string; may: string }> = {
  owner: { name: t('Owner'), may: t('all, accounts and backups too') },
  builder: { name: t('Builder'), may: t('measures, orders, signs') },
  apprentice: { name: t('Apprentice'), may: t('measures; neither orders nor signs') },
  viewer: { name: t('Viewer'), may: t('looks on') },
}
const ROLE_LIST = (Object.keys(ROLES) as Role[]).map((value) => ({ value, ...ROLES[value] }))
const client = useQueryClient()
const owns = computed(() => me.value.rights.includes('own'))
const { data: accounts } = useQuery({
  queryKey: ['accounts'],
  enabled: owns,
  queryFn: () => answer(api.GET('/api/accounts')),
})
const { data: devices } = useQuery({
  queryKey: ['devices'],
  queryFn: () => answer(api.GET('/api/devices')),
})
const others = useOthers()
const { data: rules } = useQuery({
  queryKey: ['accounts', 'rules'],
  queryFn: () => answer(api.GET('/api/shop-rules')),
})
const lay = (nods: boolean) => run(() => answer(api.PUT('/api/shop-rules', { body: { nods } })))
const problem = ref<Problem | null>(null)
/** The code that was just made: it is shown once. */
const told = ref<Account | null>(null)
async function run<T>(work: () => Promise<T>): Promise<T | null> {
  try {
    const done = await work()
    problem.value = null
    return done
  } catch (thrown) {
    problem.value = problemOf(thrown)
    return null
  } finally {
    await client.invalidateQueries({ queryKey: ['accounts'] })
    void client.invalidateQueries({ queryKey: ['devices'] })
  }
}
const end = (device: Device) =>
  run(() =>
    answer(
      api.POST('/api/devices/{device_id}/sign-out', { params: { path: { device_id: device.id } } }),
    ),
  )
const deviceName = (device: Device) =>
  device.label || t('Browser at {address}', { address: device.address })
function whereOf(seen: Here): string {
  if (seen.valve_name) return `${seen.build_name}, ${seen.valve_name}`
  return seen.build_name ?? t('the board')
}

const old = ref('')
const fresh = ref('')
const changed = ref(false)
async function changePassword() {
  const body = { old: old.value, new: fresh.value }
  changed.value = Boolean(await run(() => answer(api.POST('/api/password', { body }))))
  old.value = fresh.value = ''
}
async function leave(everywhere: boolean) {
  const now = await run(() => answer(api.POST('/api/sign-out', { body: { everywhere } })))
  if (!now) return
  client.clear()
  isNow(now)
}

const name = ref('')
const role = ref<Role>('builder')
let id = crypto.randomUUID()
async function add() {
  const body = { id, name: name.value.trim(), role: role.value }
  const made = await run(() => answer(api.POST('/api/accounts', { body })))
  if (!made) return
  told.value = made
  name.value = ''
  id = crypto.randomUUID()
}
const at = (account: Account) => ({ params: { path: { account_id: account.id } } })
async function change(account: Account, to: { role?: Role; active?: boolean }) {
  const body = { version: account.version, ...to }
  await run(() => answer(api.PATCH('/api/accounts/{account_id}', { ...at(account), body })))
}
async function code(account: Account) {
  told.value = await run(() => answer(api.POST('/api/accounts/{account_id}/code', at(account))))
}
const signOut = (account: Account) =>
  run(() => answer(api.POST('/api/accounts/{account_id}/sign-out', at(account))))

function state(account: Account): string {
  if (!account.active) return t('Shut out')
  if (!account.ready) return t('Has not used the code yet')
  const [last] = account.devices
  if (!last) return t('Signed in nowhere')
  const count = account.devices.length
  return t('{count}, seen {seen_at}', {
    count: count === 1 ? t('One browser') : t('{count} browsers', { count }),
    seen_at: when(last.seen_at),
  })
}
</script>

<template>
  <div class="people">
    <section>
      <h1>{{ me.name }}</h1>
      <p v-if="me.role" class="quiet">{{ ROLES[me.role].name }}: {{ ROLES[me.role].may }}.</p>
      <div class="row">
        <button type="button" class="plain" @click="leave(false)">{{ t('Sign out') }}</button>
        <button type="button" class="plain" @click="leave(true)">
          {{ t('Sign out everywhere') }}
        </button>
      </div>
      <h2>{{ t('Your devices') }}</h2>
      <ul class="devices" :aria-label="t('Your devices')">
        <li v-for="device in devices ?? []" :key="device.id">
          <span>
            <b>{{ deviceName(device) }}</b>
            <span class="quiet">{{
              device.here ? t('this one') : t('seen {seen_at}', { seen_at: when(device.seen_at) })
            }}</span>
          </span>
          <button
            v-if="!device.here"
            type="button"
            class="plain"
            :aria-label="t('Sign out {device}', { device: deviceName(device) })"
            @click="end(device)"
          >
            {{ t('Sign out') }}
          </button>
        </li>
      </ul>
      <PairOne :devices="devices ?? []" />
      <form @submit.prevent="changePassword">
        <h2>{{ t('Another password') }}</h2>
        <label>
          {{ t('The one of now') }}
          <el-input v-model="old" type="password" autocomplete="current-password" />
        </label>
        <label>
          {{ t('The new one') }}
          <el-input v-model="fresh" type="password" show-password autocomplete="new-password" />
        </label>
        <button type="submit" class="plain" :disabled="!old || !fresh">{{ t('Change it') }}</button>
        <p v-if="changed" role="status">
          {{ t('Changed; every other browser of yours is signed out.') }}
        </p>
      </form>
      <ProblemNote :problem="problem" />
    </section>

    <section>
      <template v-if="others.length">
        <h2>{{ t('At work now') }}</h2>
        <ul class="devices at-work" :aria-label="t('At work now')">
          <li v-for="seen in others" :key="seen.id">
            <b>{{ called(seen) }}</b>
            <RouterLink
              v-if="seen.build_id && seen.valve_id"
              :to="{
                name: 'zero_lash',
                params: { buildId: seen.build_id, valveId: seen.valve_id },
              }"
              >{{ whereOf(seen) }}</RouterLink
            >
            <span v-else class="quiet">{{ whereOf(seen) }}</span>
          </li>
        </ul>
      </template>
      <template v-if="owns">
        <h2>{{ t('People') }}</h2>
        <el-checkbox :model-value="rules?.nods ?? false" @change="lay(Boolean($event))">
          {{ t("What an apprentice settles waits for a builder's nod before rods are ordered") }}
        </el-checkbox>
        <p v-if="told?.code" class="code" role="status">
          <span>{{
            t('Tell {name} this code, good for a day and one use:', { name: told.name })
          }}</span>
          <b>{{ told.code }}</b>
          <span>{{
            t('With it {name} sets a password at “I have a code”.', { name: told.name })
          }}</span>
        </p>
        <ul :aria-label="t('Accounts')">
          <li v-for="account in accounts ?? []" :key="account.id" :class="{ out: !account.active }">
            <b>{{ account.name }}</b>
            <PickOne
              :label="t('Role of {name}', { name: account.name })"
              :options="ROLE_LIST.map(({ value, name }) => ({ value, words: name }))"
              :model-value="account.role"
              @update:model-value="change(account, { role: $event })"
            />
            <span class="quiet">{{ state(account) }}</span>
            <span class="row">
              <button type="button" class="plain" @click="code(account)">
                {{ t('New code') }}
              </button>
              <button
                v-if="account.devices.length"
                type="button"
                class="plain"
                @click="signOut(account)"
              >
                {{ t('Sign out') }}
              </button>
              <button
                v-if="account.name !== me.name"
                type="button"
                class="plain"
                @click="change(account, { active: !account.active })"
              >
                {{ account.active ? t('Shut out') : t('Let in again') }}
              </button>
            </span>
          </li>
        </ul>
        <form class="add" @submit.prevent="add">
          <label>
            {{ t('Somebody new') }}
            <el-input v-model="name" maxlength="60" autocomplete="off" :placeholder="t('Name')" />
          </label>
          <label>
            {{ t('Role') }}
            <PickOne
              v-model="role"
              :label="t('Role')"
              :options="
                ROLE_LIST.map(({ value, name, may }) => ({ value, words: `${name}: ${may}` }))
              "
            />
          </label>
          <button type="submit" class="plain strong" :disabled="!name.trim()">
            {{ t('Add') }}
          </button>
        </form>
      </template>
    </section>
  </div>
</template>

<style scoped>
.people {
  display: grid;
  grid-template-columns: minmax(260px, 340px) minmax(0, 1fr);
  gap: 40px;
}
section,
form {
  display: flex;
  flex-direction: column;
  gap: 10px;
}
h1 {
  margin: 8px 0 0;
  font-size: 28px;
}
h2 {
  margin: 12px 0 0;
  font-size: 21px;
}
label,
.quiet {
  margin: 0;
  font-size: 15px;
  color: var(--quiet);
}
.row {
  display: flex;
  flex-wrap: wrap;
  gap: 8px;
}
ul {
  display: grid;
  grid-template-columns: minmax(110px, 1fr) 150px minmax(150px, 1.3fr) auto;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  align-items: center;
  gap: 8px 14px;
  padding: 10px 0;
  border-bottom: 1px solid var(--rule);
}
ul.devices {
  grid-template-columns: minmax(0, 1fr) auto;
}
ul.at-work {
  grid-template-columns: minmax(160px, max-content) 1fr;
}
section :deep(.el-checkbox__label) {
  font-size: 17px;
  color: var(--ink);
  white-space: normal;
}
section :deep(.el-checkbox) {
  height: auto;
  min-height: 44px;
}
.devices li {
  min-height: 44px;
}
.devices li > span {
  display: flex;
  flex-direction: column;
}
.devices a {
  line-height: 44px;
}
.out b {
  text-decoration: line-through;
}
.code {
  display: flex;
  flex-direction: column;
  gap: 4px;
  margin: 0;
  padding: 12px 16px;
  border-left: 4px solid var(--accent);
  background: var(--paper);
}
.code b {
  font-size: 30px;
  letter-spacing: 0.06em;
}
.add {
  display: grid;
  grid-template-columns: minmax(150px, 1fr) minmax(220px, 1.4fr) auto;
  align-items: end;
}
@container station (max-width: 900px) {
  .people,
  .add {
    grid-template-columns: minmax(0, 1fr);
    gap: 12px;
  }
  ul {
    grid-template-columns: 1fr 150px;
  }
}
</style>
