<script setup lang="ts">
// A new scene: its production, title, rate, and what it begins with.
import { computed, onMounted, ref } from 'vue'
import { Building2, Clapperboard, House, Mountain, Square } from '@lucide/vue'
import { api, ask } from '@/api/client'
import { starts, useHome, type Start } from '@/stores/home'
import { rateName } from '@/ui/rates'

const props = defineProps<{ production: string }>()
const emit = defineEmits<{ close: []; made: [id: string] }>()
const home = useHome()
const production = ref(props.production)
const title = ref('')
const start = ref<Start>('empty')
/** '' for the production's. */
const rate = ref('')
/** A scene to begin with, as a copy; '' for one of the starts. */
const like = ref('')
const there = computed(() => (home.scenes ?? []).filter((s) => !s.binnedAt))
const busy = ref(false)
const rates = ref<string[]>([])
onMounted(async () => (rates.value = await ask(api.GET('/rates')).catch(() => rates.value))) // making it will say why
const icons = { empty: Square, room: House, street: Building2, hillside: Mountain, demonstration: Clapperboard }
const ready = computed(() => production.value.trim() && title.value.trim() && !busy.value)
async function make() {
  if (!ready.value) return
  busy.value = true
  const s = await home.made({
    production: production.value.trim(),
    title: title.value.trim(),
    ...(like.value ? { like: like.value } : { start: start.value }),
    ...(rate.value && !like.value && start.value !== 'demonstration' ? { rate: rate.value } : {}),
  })
  busy.value = false
  if (s) emit('made', s.id)
}
</script>
<template>
  <el-dialog :model-value="true" append-to-body title="New scene" width="620" @close="emit('close')">
    <form @submit.prevent="make">
      <div class="names">
        <label
          >Production
          <input v-model="production" v-typed aria-label="Production" required maxlength="200" list="productions" />
        </label>
        <datalist id="productions"><option v-for="p in home.productions" :key="p.id" :value="p.name" /></datalist>
        <label
          >Title
          <input v-model="title" v-typed aria-label="Title" required maxlength="200" autofocus />
        </label>
        <label v-if="start !== 'demonstration' && !like"
          >Rate
          <el-select v-model="rate" size="small" aria-label="Rate" :empty-values="[null, undefined]">
            <el-option value="" label="production’s" />
            <el-option v-for="r in rates" :key="r" :value="r" :label="`${rateName(r)} f/s`" />
          </el-select>
        </label>
      </div>
      <div class="starts" role="radiogroup" aria-label="Begin with">
        <label v-for="s in starts" :key="s.id" :class="{ on: start === s.id && !like }">
          <input
            v-model="start"
            type="radio"
            name="start"
            :value="s.id"
            :aria-label="s.name"
            class="sr-only"
            @click="like = ''"
          />
          <component :is="icons[s.id]" :size="26" :stroke-width="1.4" />
          <b>{{ s.name }}</b>
          <span>{{ s.what }}</span>
        </label>
      </div>
      <label v-if="there.length" class="like"
        >or with a scene that is there
        <el-select
          v-model="like"
          size="small"
          filterable
          clearable
          aria-label="Begin with the scene"
          :empty-values="[null, undefined]"
          :value-on-clear="''"
        >
          <el-option value="" label="none" />
          <el-option v-for="s in there" :key="s.id" :value="s.id" :label="`${s.title}, ${s.production}`" />
        </el-select>
      </label>
      <div class="end">
        <button type="button" class="act" @click="emit('close')">Leave it</button>
        <button class="act main" :disabled="!ready">Make the scene</button>
      </div>
    </form>
  </el-dialog>
</template>
<style scoped>
.names {
  display: grid;
  grid-template-columns: 1fr 1fr 110px;
  gap: 10px;
}
.names label {
  display: grid;
  gap: 4px;
  color: var(--dim);
  font: 12px var(--font-condensed);
}
.names input {
  height: 28px;
  min-width: 0;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: var(--text);
  font: 13px var(--font);
}
.starts {
  display: grid;
  grid-template-columns: repeat(5, 1fr);
  gap: 8px;
  margin: 16px 0 10px;
}
.starts label {
  display: grid;
  justify-items: center;
  gap: 2px;
  padding: 14px 6px 10px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: var(--raised);
  text-align: center;
  cursor: pointer;
}
.starts label:hover {
  border-color: var(--dim);
}
.starts label.on {
  border-color: var(--brass);
  color: var(--brass);
}
.starts label:focus-within {
  outline: 2px solid var(--brass);
  outline-offset: 1px;
}
.starts b {
  font-size: 12.5px;
}
.starts span {
  color: var(--dim);
  font: 11.5px/14px var(--font-condensed);
}
.like {
  display: flex;
  align-items: center;
  gap: 10px;
  margin: 0 0 14px;
  color: var(--dim);
  font: 12px var(--font-condensed);
  white-space: nowrap;
}
.end {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
}
</style>
