<script setup lang="ts">
import { ref } from 'vue'

import type { Schedule, ScheduleRequest, SourceInfo } from '../api/types'
import { useWho } from '../asking/who'
import { counted } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import { instant } from '../time/format'

/** Schedules: when each collects next and what it brought, and a form to keep another. */
const props = defineProps<{ schedules: Schedule[]; sources: SourceInfo[] }>()
const emit = defineEmits<{
  keep: [schedule: Partial<ScheduleRequest>]
  run: [name: string]
  hold: [name: string, paused: boolean]
}>()
const { who, signed } = useWho()
const fresh = ref({ name: '', source: props.sources[0]?.name ?? '', at: '02:30', notify: '' })

const words = (text: string): string[] => text.split(/[ ,]+/).filter(Boolean)

function keep(): void {
  const at = words(fresh.value.at)
  emit('keep', {
    name: fresh.value.name.trim(),
    collection: { source: fresh.value.source } as ScheduleRequest['collection'],
    timing: (at.length ? { at } : {}) as ScheduleRequest['timing'],
    notify: words(fresh.value.notify),
    who: signed.value,
  })
}

function when(schedule: Schedule): string {
  const { every, at, days, older_than: age } = schedule.timing
  if (every) return `every ${every}`
  if (at.length) return `at ${at.join(', ')} UTC, ${days}`
  return age ? `when older than ${age}` : 'on demand'
}

function next(schedule: Schedule): string {
  if (schedule.problem) return `cannot run: ${schedule.problem}`
  if (schedule.paused) return 'held'
  return schedule.next_at ? instant(schedule.next_at) : 'when asked'
}

function brought(schedule: Schedule): string {
  return schedule.last_facts === null ? 'nothing yet' : counted(schedule.last_facts, 'fact')
}

defineExpose({ clear: () => (fresh.value.name = '') })
</script>

<template>
  <div v-if="schedules.length" class="scroll" tabindex="0" role="region" aria-label="Schedules">
    <PlainTable label="Schedules">
      <thead>
        <tr>
          <th>Schedule</th>
          <th>Collects</th>
          <th>When</th>
          <th>Next</th>
          <th>Last</th>
          <th class="n">What changed</th>
          <th>Informs</th>
          <th><span class="visually-hidden">What to do</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="s in schedules" :key="s.name">
          <th scope="row">{{ s.name }}</th>
          <td>{{ s.source }}{{ s.list ? `, ${s.list}` : '' }}</td>
          <td>{{ when(s) }}</td>
          <td class="next" :class="{ wrong: s.problem }">{{ next(s) }}</td>
          <td>
            <router-link v-if="s.last_run" :to="{ name: 'run', params: { id: s.last_run } }"
              >run {{ s.last_run }}, {{ s.last_state?.replace('_', ' ') }}</router-link
            >
            <span v-else class="soft">never</span>
          </td>
          <td class="n">{{ brought(s) }}</td>
          <td class="soft informs" :title="s.notify.join(', ')">
            {{ s.notify.join(', ') || 'none' }}
          </td>
          <td class="n">
            <button class="link" @click="emit('run', s.name)">Run now</button>
            <button class="link" @click="emit('hold', s.name, !s.paused)">
              {{ s.paused ? 'Go on' : 'Hold' }}
            </button>
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
  <form v-if="sources.length" class="fresh" @submit.prevent="keep">
    <label>Name <input v-model="fresh.name" class="field" placeholder="nightly" /></label>
    <label
      >Collects
      <select v-model="fresh.source" class="field">
        <option v-for="s in sources" :key="s.name" :value="s.name">{{ s.title }}</option>
      </select></label
    >
    <label>At, UTC <input v-model="fresh.at" class="field short" placeholder="02:30" /></label>
    <label
      >Inform <input v-model="fresh.notify" class="field" placeholder="mailto:ada@example.test"
    /></label>
    <label>Your name <input v-model="who" class="field short" placeholder="Your name" /></label>
    <button class="plain" :disabled="!fresh.name.trim()">Keep a schedule</button>
  </form>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.fresh {
  display: flex;
  flex-wrap: wrap;
  gap: 12px;
  align-items: end;
  margin-top: 10px;
}
.fresh label {
  display: grid;
  gap: 2px;
  font-size: 13px;
}
.short {
  width: 110px;
}
td .link + .link {
  margin-left: 10px;
}
.informs,
.next {
  max-width: 200px;
}
</style>
