<script setup lang="ts">
import { ref } from 'vue'

import type { SourceTag } from '../api/collecting'
import { grouped } from '../figures/numbers'
import PlainTable from '../figures/PlainTable.vue'

/** Tags that no item has, and the item that a person says they mean. */
defineProps<{ tags: SourceTag[]; items: string[] }>()
const emit = defineEmits<{ map: [tag: SourceTag, item: string] }>()
const meant = ref<Record<string, string>>({})
</script>

<template>
  <p class="soft small">
    Say what one means, and the documents already kept are read again by it: nothing is fetched.
  </p>
  <div class="scroll" tabindex="0" role="region" aria-label="Tags without an item">
    <PlainTable class="narrow" label="Tags without a meaning">
      <thead>
        <tr>
          <th>Tag</th>
          <th class="n">Documents</th>
          <th class="n">Companies</th>
          <th>Such as</th>
          <th>Means</th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="u in tags" :key="u.source + u.tag">
          <th scope="row" class="code">{{ u.tag }}</th>
          <td class="n">{{ grouped(u.documents) }}</td>
          <td class="n">{{ grouped(u.companies) }}</td>
          <td class="soft">{{ u.example }}</td>
          <td>
            <form @submit.prevent="emit('map', u, meant[u.tag]!.trim())">
              <input
                v-model="meant[u.tag]"
                class="field code"
                :aria-label="`What ${u.tag} means`"
                list="items"
                placeholder="an item"
              />
              <button class="plain" :disabled="!meant[u.tag]?.trim()">Keep</button>
            </form>
          </td>
        </tr>
      </tbody>
    </PlainTable>
  </div>
  <datalist id="items"><option v-for="item in items" :key="item" :value="item" /></datalist>
</template>

<style scoped>
.scroll {
  overflow-x: auto;
}
.narrow {
  max-width: 860px;
}
.narrow form {
  display: flex;
  gap: 8px;
}
.small {
  font-size: 13px;
}
</style>
