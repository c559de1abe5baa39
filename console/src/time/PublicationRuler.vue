<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref } from 'vue'

import type { Publications } from '../api/types'
import { longDay } from './format'
import { DAY_MS, monthEnd, plusDays, stepMonth, today } from './days'
import { useStamp } from './stamp'

/**
 * How much became public, month by month; what lies after the stamp is hatched. Drag it, or use
 * the arrow keys.
 */
const props = defineProps<{ publications: Publications | null }>()
const { knownOn, move, step } = useStamp()

const HEIGHT = 20
const track = ref<HTMLElement>()
const width = ref(1000)
const dragging = ref(false)
const watcher = new ResizeObserver((seen) => {
  width.value = Math.max(200, seen[0]!.contentRect.width)
})
onMounted(() => watcher.observe(track.value!))
onUnmounted(() => watcher.disconnect())

const first = computed(() => props.publications?.first ?? plusDays(today(), -365 * 5))
const last = computed(() => monthEnd(today(), 0))
const span = computed(() => (Date.parse(last.value) - Date.parse(first.value)) / DAY_MS)

function x(day: string): number {
  const at = (Date.parse(day) - Date.parse(first.value)) / DAY_MS / span.value
  return Math.min(1, Math.max(0, at)) * width.value
}

const bars = computed(() => {
  const months = props.publications?.months ?? []
  const most = Math.max(1, ...months.map((m) => m.facts))
  return months.map((m) => {
    const begin = x(`${m.month}-01`)
    const height = 3 + (HEIGHT - 6) * Math.sqrt(m.facts / most)
    return {
      ...m,
      begin,
      width: Math.max(1, x(monthEnd(`${m.month}-01`, 0)) - begin - 1.5),
      height,
    }
  })
})
const years = computed(() => {
  const from = Number(first.value.slice(0, 4))
  const to = Number(last.value.slice(0, 4))
  const each = (to - from + 1) * 46 > width.value ? 2 : 1
  return (
    Array.from({ length: to - from + 1 }, (_, i) => from + i)
      .map((year) => ({ year, at: x(`${year}-01-01`) }))
      // The first year may have but a few days here: it gives way to the next.
      .filter(
        ({ at, year }, i, all) =>
          i % each === 0 && at < width.value - 30 && (year === to || all[i + 1]!.at - at > 30),
      )
  )
})
const here = computed(() => x(knownOn.value))

const daysFrom = (day: string): number =>
  Math.round((Date.parse(day) - Date.parse(first.value)) / DAY_MS)

function dayAt(clientX: number): string {
  const box = track.value!.getBoundingClientRect()
  const share = Math.min(1, Math.max(0, (clientX - box.left) / box.width))
  const day = plusDays(first.value, Math.round(share * span.value))
  return day > today() ? today() : day
}

function grab(event: PointerEvent): void {
  dragging.value = true
  track.value!.setPointerCapture(event.pointerId)
  move(dayAt(event.clientX))
}

function drag(event: PointerEvent): void {
  if (dragging.value) move(dayAt(event.clientX), true)
}

function key(event: KeyboardEvent): void {
  const by = event.shiftKey ? plusDays : stepMonth
  const to: Record<string, (day: string) => string> = {
    ArrowLeft: (day) => by(day, -1),
    ArrowDown: (day) => by(day, -1),
    ArrowUp: (day) => by(day, 1),
    ArrowRight: (day) => by(day, 1),
    PageDown: (day) => monthEnd(day, -12),
    PageUp: (day) => monthEnd(day, 12),
    Home: () => first.value,
    End: () => today(),
  }
  if (!to[event.key]) return
  event.preventDefault()
  step(to[event.key]!)
}
</script>

<template>
  <div
    ref="track"
    class="ruler"
    role="slider"
    tabindex="0"
    aria-label="Known on"
    aria-valuemin="0"
    :aria-valuemax="daysFrom(today())"
    :aria-valuenow="Math.max(0, daysFrom(knownOn))"
    :aria-valuetext="`${longDay(knownOn)}, of ${longDay(first)} to ${longDay(today())}`"
    title="What became public, month by month. Drag, or use the arrow keys (with Shift by days)."
    @pointerdown="grab"
    @pointermove="drag"
    @pointerup="dragging = false"
    @pointercancel="dragging = false"
    @keydown="key"
  >
    <svg :width="width" :height="HEIGHT" aria-hidden="true">
      <defs>
        <pattern
          id="hatch"
          width="5"
          height="5"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <path d="M0 0V5" class="hatching" />
        </pattern>
      </defs>
      <rect
        v-for="bar in bars"
        :key="bar.month"
        :x="bar.begin"
        :y="HEIGHT - bar.height"
        :width="bar.width"
        :height="bar.height"
        :class="bar.begin <= here ? 'known' : 'unknown'"
      />
      <rect
        :x="here"
        y="0"
        :width="Math.max(0, width - here)"
        :height="HEIGHT"
        fill="url(#hatch)"
      />
      <text v-for="year in years" :key="year.year" :x="year.at + 2" y="8">{{ year.year }}</text>
      <path :d="`M${here} 0V${HEIGHT}`" class="here" />
    </svg>
  </div>
</template>

<style scoped>
.ruler {
  height: 20px;
  cursor: ew-resize;
  touch-action: none;
  user-select: none;
}
svg {
  display: block;
  overflow: visible;
}
.known {
  fill: var(--plum);
  opacity: 0.55;
}
.unknown {
  fill: var(--soft);
  opacity: 0.3;
}
.hatching {
  stroke: var(--soft);
  stroke-width: 1;
  opacity: 0.35;
}
.here {
  stroke: var(--plum);
  stroke-width: 2.5;
}
text {
  font: 10.5px var(--body);
  fill: var(--soft);
  paint-order: stroke;
  stroke: var(--paper);
  stroke-width: 3px;
}
</style>
