<script setup lang="ts">
import { computed } from 'vue'

import * as ledger from '../api/ledger'
import type { ListingInfo } from '../api/types'
import { useAddress } from '../asking/address'
import ProblemNote from '../asking/ProblemNote.vue'
import { useQuestion } from '../asking/question'
import { counted, grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'
import PageHead from '../shell/PageHead.vue'
import { stretch } from '../time/format'
import { useStamp } from '../time/stamp'
import CompanyTabs from './CompanyTabs.vue'

/** Directories: venues with counts, securities by type, listings of a venue, as of the stamp. */
const TYPES = ['ordinary', 'preference', 'depositary_receipt', 'fund', 'unit', 'warrant']
// A venue stands once for each type of security that is traded there.
const NOUNS: Record<string, string> = { venues: 'row', securities: 'security', listings: 'listing' }
const { route, one, set } = useAddress()
const { knownOn } = useStamp()
const kind = computed(() => String(route.params.kind))
const type = computed(() => one('type'))
const venue = computed(() => one('venue'))

const {
  answer: found,
  current,
  problem,
} = useQuestion(
  () => ({ kind: kind.value, on: knownOn.value, type: type.value, venue: venue.value }),
  async (asked, signal) => ({
    venues: await ledger.venues(asked.on, signal),
    securities:
      asked.kind === 'securities' ? await ledger.securities(asked.on, asked.type, signal) : [],
    listings:
      asked.kind === 'listings'
        ? await ledger.listings(asked.on, asked.venue, asked.type, signal)
        : [],
  }),
)
const venues = computed(() => found.value?.venues ?? [])
const securities = computed(() => found.value?.securities ?? [])
const listings = computed(() => found.value?.listings ?? [])
const mics = computed(() => [...new Set(venues.value.map((v) => v.mic))])
const rows = computed(() => ({
  venues: venues.value,
  securities: securities.value,
  listings: listings.value,
}))
const count = computed(() => rows.value[kind.value as keyof typeof rows.value]?.length ?? 0)

const words = (text: string): string => text.replace('_', ' ')

const span = (listing: ListingInfo): string => stretch(listing.valid_from, listing.valid_to)
</script>

<template>
  <PageHead title="Companies" :about="kind"
    ><template v-if="current"
      >{{ counted(count, NOUNS[kind] ?? 'row') }} on that day</template
    ></PageHead
  >
  <main>
    <CompanyTabs />
    <div v-if="kind !== 'venues'" class="tools">
      <label v-if="kind === 'listings'"
        >Venue
        <select
          class="field"
          :value="venue ?? ''"
          @change="set({ venue: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">all</option>
          <option v-for="mic in mics" :key="mic">{{ mic }}</option>
        </select></label
      >
      <label
        >Type
        <select
          class="field"
          :value="type ?? ''"
          @change="set({ type: ($event.target as HTMLSelectElement).value || undefined })"
        >
          <option value="">all</option>
          <option v-for="t in TYPES" :key="t" :value="t">{{ words(t) }}</option>
        </select></label
      >
    </div>
    <ProblemNote :problem="problem" />
    <div v-if="count" class="scroll" tabindex="0" role="region" :aria-label="kind">
      <PlainTable v-if="kind === 'venues'" class="narrow" label="Venues">
        <thead>
          <tr>
            <th>Venue</th>
            <th>Name</th>
            <th>Country</th>
            <th>Closes</th>
            <th>Security type</th>
            <th class="n">Listings</th>
            <th class="n">Companies</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="v in venues" :key="v.mic + v.security_type">
            <th scope="row">
              <router-link
                :to="{
                  params: { kind: 'listings' },
                  query: { ...route.query, venue: v.mic, type: v.security_type },
                }"
                >{{ v.mic }}</router-link
              >
            </th>
            <td>{{ [v.name ?? 'not known', ...v.also_called].join(', ') }}</td>
            <td>{{ v.country ?? 'not known' }}</td>
            <td>
              {{ [v.close, v.close && v.time_zone].filter(Boolean).join(', ') || 'not known' }}
            </td>
            <td>{{ words(v.security_type) }}</td>
            <td class="n">{{ grouped(v.listings) }}</td>
            <td class="n">{{ grouped(v.companies) }}</td>
          </tr>
        </tbody>
      </PlainTable>
      <PlainTable v-if="kind === 'securities'" label="Securities">
        <thead>
          <tr>
            <th>Company</th>
            <th>Type</th>
            <th class="n">Receipt ratio</th>
            <th>Listed</th>
            <th>Security</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="s in securities" :key="s.id">
            <th scope="row">
              <router-link
                :to="{ name: 'company', params: { id: s.company }, query: { known_on: knownOn } }"
                >{{ s.name }}</router-link
              >
            </th>
            <td>{{ words(s.type) }}</td>
            <td class="n" :class="{ missing: s.ratio === null }">
              {{ s.ratio === null ? 'n/a' : `${s.ratio}:1` }}
            </td>
            <td :class="{ missing: !s.listings.length }">
              {{ s.listings.map((l) => `${l.symbol}@${l.mic}`).join(', ') || 'not listed' }}
            </td>
            <td class="soft code">{{ s.id }}</td>
          </tr>
        </tbody>
      </PlainTable>
      <PlainTable v-if="kind === 'listings'" label="Listings">
        <thead>
          <tr>
            <th>Listing</th>
            <th>Company</th>
            <th>Type</th>
            <th>Currency</th>
            <th>From, to</th>
            <th>Primary</th>
          </tr>
        </thead>
        <tbody>
          <tr v-for="l in listings" :key="l.listing.id">
            <th scope="row">{{ l.listing.symbol }}@{{ l.listing.mic }}</th>
            <td>
              <router-link
                :to="{ name: 'company', params: { id: l.company }, query: { known_on: knownOn } }"
                >{{ l.name }}</router-link
              >
            </td>
            <td>{{ words(l.listing.security_type) }}</td>
            <td>{{ l.listing.currency }}</td>
            <td>{{ span(l.listing) }}</td>
            <td class="soft">{{ l.listing.primary ? 'primary' : 'second' }}</td>
          </tr>
        </tbody>
      </PlainTable>
    </div>
    <p v-else-if="current" class="soft none">
      Nothing of this kind was traded on that day: move the stamp, or choose another type.
    </p>
  </main>
</template>

<style scoped>
main {
  padding: 12px 24px 32px;
}
.tools {
  display: flex;
  gap: 16px;
  margin: 10px 0;
}
label {
  display: flex;
  gap: 8px;
  align-items: center;
  font-size: 13px;
}
.scroll {
  overflow: auto;
  margin-top: 10px;
}
.narrow {
  max-width: 720px;
}
.none {
  padding: 40px 0;
}
</style>
