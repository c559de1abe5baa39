<script setup lang="ts">
import { computed, shallowRef } from 'vue'
import { useRoute } from 'vue-router'

import { itemTitles } from '../api/catalogue'
import { company } from '../api/ledger'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { useDocument } from '../figures/document'
import DocumentDialog from '../figures/DocumentDialog.vue'
import { grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import CompanyEstimates from '../market/CompanyEstimates.vue'
import PriceChart from '../market/PriceChart.vue'
import PageHead from '../shell/PageHead.vue'
import { instant, shortDay } from '../time/format'
import { useStamp } from '../time/stamp'
import LatestFigures from './LatestFigures.vue'
import SpanBars, { type Bar } from './SpanBars.vue'

const route = useRoute()
const { knownOn } = useStamp()
const file = useDocument()
const { answer: page, problem } = useQuestion(
  () => (typeof route.params.id === 'string' ? { id: route.params.id, on: knownOn.value } : null),
  ({ id, on }, signal) => company(id, on, signal),
)

const named = computed<Bar[]>(() =>
  (page.value?.names ?? []).map((n) => ({
    label: 'name',
    value: n.value,
    from: n.valid_from,
    to: n.valid_to,
  })),
)
const traded = computed<Bar[]>(() =>
  (page.value?.listings ?? []).map((l) => ({
    label: l.security_type.replace('_', ' '),
    value: `${l.symbol}@${l.mic} ${l.currency}${l.primary ? '' : ', second'}`,
    from: l.valid_from,
    to: l.valid_to,
  })),
)
const identified = computed<Bar[]>(() =>
  (page.value?.identifiers ?? []).map((i) => ({
    label: i.kind,
    value: i.value,
    from: i.valid_from,
    to: i.valid_to,
  })),
)
const template = computed(
  () => page.value?.attributes.find((a) => a.kind === 'template')?.value ?? null,
)
const titles = shallowRef(new Map<string, string>())
void itemTitles()
  .then((known) => (titles.value = known))
  .catch(() => undefined)
const plain = computed(() => (page.value?.attributes ?? []).filter((a) => a.kind !== 'description'))
</script>

<template>
  <PageHead :title="page?.company.name ?? 'Company'" :company="page?.company.id">
    <template v-if="page">
      {{ [page.company.id, page.company.seat, page.company.country].filter(Boolean).join(' · ') }}
      <span v-if="page.ended">
        · not active after {{ shortDay(page.ended)
        }}<template v-if="page.end_cause">: {{ page.end_cause }}</template></span
      >
    </template>
  </PageHead>
  <main>
    <ProblemNote :problem="problem" />
    <template v-if="page">
      <p v-if="page.company.description" class="about">
        {{ page.company.description }} <span class="soft">{{ page.company.website }}</span>
      </p>
      <p class="ways">
        <router-link :to="{ name: 'statements', query: { company: page.company.id } }"
          >Statements</router-link
        >
        <router-link
          :to="{
            name: 'statements',
            query: { company: page.company.id, statement: 'restatements' },
          }"
          >Restatements</router-link
        >
        <router-link :to="{ name: 'estimates', query: { company: page.company.id } }"
          >Estimates</router-link
        >
      </p>
      <LatestFigures :company="page.company.id" :known-on="knownOn" :template="template" />
      <PriceChart
        v-if="page.listings.length"
        :company="page.company.id"
        :name="page.company.name"
        :known-on="knownOn"
        :documents="page.documents"
      />
      <CompanyEstimates :company="page.company.id" :known-on="knownOn" />
      <h2>Names</h2>
      <SpanBars label="Names over time" :bars="named" :known-on="knownOn" />
      <h2>Securities and listings</h2>
      <SpanBars label="Listings over time" :bars="traded" :known-on="knownOn" />
      <h2>Identifiers</h2>
      <SpanBars label="Identifiers over time" :bars="identified" :known-on="knownOn" />
      <div class="two">
        <section>
          <h2>Attributes</h2>
          <dl>
            <template v-for="a in plain" :key="a.kind + a.value">
              <dt class="soft">{{ a.kind.replaceAll('_', ' ') }}</dt>
              <dd>
                {{ a.value }}
                <span class="soft small"
                  >since {{ a.valid_from ? shortDay(a.valid_from) : 'always' }}</span
                >
              </dd>
            </template>
          </dl>
        </section>
        <section>
          <h2>What the ledger holds</h2>
          <PlainTable v-if="page.holdings.length" label="Facts held, by item">
            <thead>
              <tr>
                <th>Item</th>
                <th class="n">Facts</th>
                <th>Period ends</th>
                <th>Last public</th>
              </tr>
            </thead>
            <tbody>
              <tr v-for="h in page.holdings" :key="h.item">
                <th scope="row">
                  <router-link :to="{ name: 'item', params: { code: h.item } }" :title="h.item">{{
                    titles.get(h.item) ?? h.item
                  }}</router-link>
                </th>
                <td class="n">{{ grouped(h.facts) }}</td>
                <td>{{ shortDay(h.first_period_end) }} – {{ shortDay(h.last_period_end) }}</td>
                <td>{{ shortDay(h.last_published) }}</td>
              </tr>
            </tbody>
          </PlainTable>
          <p v-else class="soft">Nothing was public by this date.</p>
          <h2>Documents</h2>
          <ol v-if="page.documents.length" class="documents">
            <li v-for="d in page.documents" :key="d.sha256">
              <button class="link" @click="file.open(d, '')">{{ d.title }}</button>
              <span class="soft small"
                >{{ d.published_at ? instant(d.published_at) : 'no publication date' }} ·
                {{ d.source }}</span
              >
            </li>
          </ol>
          <p v-else class="soft">None yet.</p>
        </section>
      </div>
    </template>
  </main>
  <DocumentDialog :address="file.address.value" :place="file.place.value" @close="file.close" />
</template>

<style scoped>
main {
  padding: 12px 24px 32px;
}
h2 {
  margin: 18px 0 4px;
}
.about {
  margin-top: 4px;
}
.two {
  display: grid;
  grid-template-columns: 320px minmax(0, 1fr);
  gap: 32px;
}
dl {
  display: grid;
  grid-template-columns: 110px 1fr;
  margin: 0;
}
dt,
dd {
  margin: 0;
  padding: 5px 0;
  border-bottom: 1px solid var(--rule);
}
.small {
  font-size: 12.5px;
}
.documents {
  list-style: none;
  padding: 0;
  max-height: 320px;
  overflow-y: auto;
}
.documents li {
  display: flex;
  justify-content: space-between;
  padding: 4px 0;
  border-bottom: 1px solid var(--rule);
}
.ways {
  display: flex;
  gap: 18px;
}
</style>
