<script setup lang="ts">
import { computed } from 'vue'

import type { MeasurePage } from '../api/types'
import { shortDay } from '../time/format'

/** What a measure rests on, how it deals with periods and holes, an example, its versions. */
const props = defineProps<{ page: MeasurePage; versions: MeasurePage[]; knownOn: string }>()
const lines = computed(() =>
  props.page?.reads
    ? (
        [
          ['Items', props.page.reads.items, 'item'],
          ['Fields', props.page.reads.fields, ''],
          ['Measures', props.page.reads.measures, 'measure'],
          ['Series', props.page.reads.series, ''],
          ['Sources', props.page.reads.sources, ''],
        ] as const
      ).filter(([, names]) => names.length)
    : [],
)
</script>

<template>
  <section class="rests">
    <h3>Rests on</h3>
    <p v-for="[title, names, route] in lines" :key="title">
      <span class="soft">{{ title }}</span><br />
      <template v-for="(n, i) in names" :key="n"
        >{{ i ? ', ' : ''
        }}<router-link
          v-if="route === 'item'"
          class="code"
          :to="{ name: 'item', params: { code: n }, query: { known_on: knownOn } }"
          >{{ n }}</router-link
        ><router-link
          v-else-if="route === 'measure'"
          class="code"
          :to="{ name: 'measures', params: { name: n }, query: { known_on: knownOn } }"
          >{{ n }}</router-link
        ><span v-else class="code">{{ n }}</span></template
      >
    </p>
    <template v-if="page.reads">
      <h3>Periods and holes</h3>
      <p v-for="line in [...page.reads.periods, ...page.reads.missing]" :key="line">
        {{ line }}
      </p>
    </template>
    <template v-if="page.example">
      <h3>For example</h3>
      <p>
        <template v-for="(v, n) in page.example.given" :key="n"
          ><span class="code">{{ n }}</span> {{ v }}<br /></template
        >gives <b>{{ page.example.result }}</b>
      </p>
    </template>
    <template v-if="page.used_by.length"
      ><h3>Used by</h3>
      <p v-for="u in page.used_by" :key="u">{{ u }}</p></template
    >
    <template v-if="versions.length > 1">
      <h3>Versions</h3>
      <p v-for="v in versions" :key="v.version">
        <b>{{ v.version }}</b> {{ v.owner }}, {{ v.kept_at ? shortDay(v.kept_at.slice(0, 10)) : ''
        }}<template v-if="v.archived">, archived</template><br /><span class="code">{{
          v.formula
        }}</span>
      </p>
    </template>
  </section>
</template>

<style scoped>
h3 {
  font-weight: 600;
  font-size: 14px;
  margin: 16px 0 4px;
}
.rests p {
  margin: 0 0 6px;
  font-size: 13px;
  overflow-wrap: anywhere;
}
</style>
