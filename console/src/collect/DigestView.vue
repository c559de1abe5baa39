<script setup lang="ts">
import type { Digest } from '../api/types'
import { bracketed, counted, grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'

/** What came in with a run. */
defineProps<{ digest: Digest }>()
const TITLES: [string, string][] = [
  ['facts', 'new facts'],
  ['documents', 'documents'],
  ['companies', 'new companies'],
  ['periods', 'new periods'],
  ['restatements', 'restated'],
  ['withdrawn', 'withdrawn'],
  ['unmapped', 'tags without an item'],
  ['quarantined', 'in quarantine'],
  ['flagged', 'flagged'],
  ['failed', 'failed'],
]

function amount(value: number | null): string {
  return value === null ? 'withdrawn' : bracketed(value, 2, 0)
}

function percent(value: number): string {
  return bracketed(value, 1)
}
</script>

<template>
  <dl class="counts">
    <div v-for="[key, title] in TITLES" :key="key" :class="{ none: !digest.counts[key] }">
      <dt>{{ title }}</dt>
      <dd>{{ grouped(digest.counts[key] ?? 0) }}</dd>
    </div>
  </dl>
  <section v-if="digest.restatements.length || digest.withdrawn.length">
    <h2>Restated and withdrawn</h2>
    <div class="scroll" tabindex="0" role="region" aria-label="Restated and withdrawn">
      <PlainTable label="Restated and withdrawn">
        <thead>
          <tr>
            <th>Company</th>
            <th>Item</th>
            <th>Period end</th>
            <th>Unit</th>
            <th class="n">Was</th>
            <th class="n">Is</th>
            <th class="n">%</th>
            <th>Document</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="(c, i) in [...digest.withdrawn, ...digest.restatements]" :key="i">
            <th scope="row">
              <router-link :to="{ name: 'company', params: { id: c.company } }">{{
                c.name
              }}</router-link>
            </th>
            <td class="code">{{ c.item }}</td>
            <td>{{ c.period_end }}</td>
            <td>{{ c.unit }}</td>
            <td class="n">{{ amount(c.old) }}</td>
            <td class="n">{{ amount(c.new) }}</td>
            <td class="n" :class="{ missing: c.percent === null, wrong: (c.percent ?? 0) < 0 }">
              {{ c.percent === null ? 'n/a' : percent(c.percent) }}
            </td>
            <td class="soft">{{ c.document }}</td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
  </section>
  <section v-if="digest.unmapped.length">
    <h2>Tags without an item</h2>
    <p class="soft">
      <span v-for="u in digest.unmapped" :key="u.tag"
        ><span class="code">{{ u.tag }}</span> in {{ counted(u.documents, 'document') }};
      </span>
      <router-link :to="{ name: 'collect' }">say what they mean</router-link>
    </p>
  </section>
  <section v-if="digest.periods.length">
    <h2>New periods</h2>
    <div class="scroll" tabindex="0" role="region" aria-label="New periods">
      <PlainTable label="New periods">
        <thead>
          <tr>
            <th>Company</th>
            <th class="n">Period ends</th>
            <th>First</th>
            <th>Last</th>
            <th class="n">Facts</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="p in digest.periods" :key="p.company">
            <th scope="row">
              <router-link :to="{ name: 'company', params: { id: p.company } }">{{
                p.name
              }}</router-link>
            </th>
            <td class="n">{{ p.periods }}</td>
            <td>{{ p.first }}</td>
            <td>{{ p.last }}</td>
            <td class="n">{{ grouped(p.facts) }}</td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
  </section>
  <section v-if="digest.deliveries.length">
    <h2>Sent</h2>
    <p
      v-for="d in digest.deliveries"
      :key="d.target"
      :class="d.state === 'failed' ? 'wrong' : 'soft'"
    >
      {{ d.state }} to {{ d.target }}{{ d.reason ? `: ${d.reason}` : '' }}
    </p>
  </section>
</template>

<style scoped>
.counts {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 12px;
  margin: 12px 0 18px;
}
.counts div {
  border-top: 1.5px solid var(--ink);
  padding-top: 5px;
}
.counts .none {
  border-color: var(--rule);
}
dt {
  font-size: 12.5px;
  color: var(--soft);
}
dd {
  margin: 0;
  font: 600 20px/1.3 var(--title);
}
.none dd {
  color: var(--soft);
}
section {
  margin-bottom: 20px;
}
.scroll {
  overflow: auto;
  max-height: 330px;
}
thead th {
  position: sticky;
  top: 0;
  background: var(--paper);
}
</style>
