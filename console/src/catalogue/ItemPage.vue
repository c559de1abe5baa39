<script setup lang="ts">
import { computed } from 'vue'
import { useRoute } from 'vue-router'

import { item } from '../api/catalogue'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { useTitle } from '../asking/title'
import PlainTable from '../figures/PlainTable.vue'
import { counted, figure, unitOf } from '../figures/numbers'
import { shortDay } from '../time/format'

/** One item: meaning, coverage over time, tags, sums, neighbours, and how its values lie. */
const route = useRoute()
const { answer: page, problem } = useQuestion(() => String(route.params.code), item)
useTitle(() => [page.value?.item.title ?? String(route.params.code)])
const most = computed(() => Math.max(1, ...(page.value?.years ?? []).map((y) => y.companies)))
const say = (v: number): string => figure(v, page.value!.item.unit, false)
</script>

<template>
  <header>
    <p class="soft"><router-link :to="{ name: 'catalogue' }">Catalogue</router-link></p>
    <h1>{{ page?.item.title ?? route.params.code }}</h1>
    <p v-if="page" class="soft">
      <span class="code">{{ page.item.code }}</span> ·
      {{ page.item.statement.replaceAll('_', ' ') }} · {{ page.item.nature }} ·
      {{ page.item.unit.replaceAll('_', ' ') }} ·
      {{ page.item.templates.length === 3 ? 'all templates' : page.item.templates.join(', ')
      }}<template v-if="page.item.stale_after">
        · stale after {{ page.item.stale_after }} days</template
      >
    </p>
  </header>
  <main>
    <ProblemNote :problem="problem" />
    <p v-if="!page && !problem" class="soft">Looking …</p>
    <template v-if="page">
      <p>
        <router-link :to="{ name: 'screens', query: { rule: 'active', column: page.item.code } }"
          >Screen by this</router-link
        >
      </p>
      <p class="about">{{ page.item.definition || 'No definition was given.' }}</p>
      <p v-if="page.item.synonyms.length" class="soft">
        Also called {{ page.item.synonyms.join(', ') }}.
      </p>
      <p v-if="page.item.source" class="soft">From {{ page.item.source }}.</p>
      <div class="two">
        <section>
          <h2>How often it is filled</h2>
          <template v-if="page.coverage">
            <p>
              {{ counted(page.coverage.companies, 'company') }} ({{
                Math.round(page.coverage.share * 100)
              }}
              % of those whose template has it), {{ counted(page.coverage.facts, 'figure') }},
              {{ shortDay(page.coverage.first) }} to {{ shortDay(page.coverage.last) }}
            </p>
            <ol class="years" aria-label="Companies by year">
              <li
                v-for="y in page.years"
                :key="y.year"
                :title="`${counted(y.companies, 'company')} in ${y.year}`"
              >
                <b>{{ y.companies }}</b><i
                  :style="{ height: `${(y.companies / most) * 80}px` }"
                /><span>{{ String(y.year).slice(2) }}</span>
              </li>
            </ol>
          </template>
          <p v-else class="soft">No figure of it is in the ledger yet.</p>
          <template v-if="page.spreads.length">
            <h2>
              Distribution today,
              {{
                unitOf(page.item.unit, false, null).trim() || page.item.unit.replaceAll('_', ' ')
              }}
            </h2>
            <PlainTable label="How the values lie, by currency">
              <thead>
                <tr>
                  <th>Currency</th>
                  <th class="n">Companies</th>
                  <th class="n">Minimum</th>
                  <th class="n">Lower quartile</th>
                  <th class="n">Median</th>
                  <th class="n">Upper quartile</th>
                  <th class="n">Maximum</th>
                  <th>5th to 95th percentile</th>
                </tr>
              </thead>
              <tbody>
                <tr v-for="s in page.spreads" :key="s.currency ?? ''">
                  <th scope="row">{{ s.currency ?? 'none' }}</th>
                  <td class="n">{{ s.companies }}</td>
                  <td class="n" :class="{ wrong: s.least < 0 }">{{ say(s.least) }}</td>
                  <td class="n">{{ say(s.lower_quartile) }}</td>
                  <td class="n">{{ say(s.median) }}</td>
                  <td class="n">{{ say(s.upper_quartile) }}</td>
                  <td class="n">{{ say(s.greatest) }}</td>
                  <td>
                    <svg width="96" height="22" role="img" aria-label="histogram">
                      <rect
                        v-for="(b, i) in s.bins"
                        :key="i"
                        :x="i * 8"
                        :y="22 - (b / Math.max(...s.bins, 1)) * 20"
                        width="7"
                        :height="(b / Math.max(...s.bins, 1)) * 20"
                      />
                    </svg>
                  </td>
                </tr>
              </tbody>
            </PlainTable>
          </template>
        </section>
        <section>
          <template v-if="page.adds_to.length || page.made_of.length">
            <h2>Sums</h2>
            <p v-for="line in page.adds_to" :key="line.item">
              {{ line.sign > 0 ? 'added to' : 'taken from' }}
              <router-link class="code" :to="{ name: 'item', params: { code: line.item } }">{{
                line.item
              }}</router-link>
            </p>
            <p v-for="line in page.made_of" :key="line.item">
              {{ line.sign > 0 ? '+' : '−' }}
              <router-link class="code" :to="{ name: 'item', params: { code: line.item } }">{{
                line.item
              }}</router-link>
            </p>
          </template>
          <h2>Tags of sources</h2>
          <p v-for="t in page.tags" :key="t.source + t.tag + t.template">
            <span class="soft">{{ t.source }}</span> <span class="code">{{ t.tag }}</span><span
              v-if="t.template"
              class="soft"
              >, {{ t.template }}</span
            >
          </p>
          <p v-if="!page.tags.length" class="soft">No source has a tag for it.</p>
          <template v-if="page.neighbours.length">
            <h2>Not to be confused with</h2>
            <p v-for="n in page.neighbours" :key="n.item">
              <router-link :to="{ name: 'item', params: { code: n.item } }">{{
                n.title
              }}</router-link>: <span class="soft">{{ n.meaning }}</span>
            </p>
          </template>
        </section>
      </div>
    </template>
  </main>
</template>

<style scoped>
header {
  padding: 16px 24px 0;
}
main {
  padding: 8px 24px 32px;
}
.about {
  font-size: 15px;
  margin: 4px 0;
}
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 300px;
  gap: 36px;
}
h2 {
  margin: 18px 0 4px;
}
.years {
  list-style: none;
  display: flex;
  gap: 4px;
  align-items: flex-end;
  margin-top: 10px;
}
.years li {
  display: grid;
  justify-items: center;
  width: 40px;
  font-size: 11.5px;
}
.years b {
  font-weight: 400;
  color: var(--soft);
}
.years i {
  width: 26px;
  background: var(--spruce);
  min-height: 1px;
}
rect {
  fill: var(--spruce);
}
</style>
