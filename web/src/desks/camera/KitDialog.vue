<script setup lang="ts">
// The lens kits of the production: primes and zooms written as a list.
import { ref, watch } from 'vue'
import { useScene } from '@/stores/scene'

const props = defineProps<{ kit: string }>()
const emit = defineEmits<{ close: []; use: [id: string] }>()
const scene = useScene()
const id = ref(props.kit)
const name = ref('')
const lenses = ref('')
const squeeze = ref(1)
const wrong = ref('')
watch(
  id,
  () => {
    const k = scene.doc.kits[id.value]
    name.value = k?.name ?? 'New kit'
    squeeze.value = k?.squeeze || 1
    lenses.value = [...(k?.primes ?? []), ...(k?.zooms ?? []).map((z) => `${z[0]}–${z[1]}`)].join(', ')
    wrong.value = ''
  },
  { immediate: true },
)
function save() {
  const primes: number[] = []
  const zooms: [number, number][] = []
  for (const part of lenses.value.split(/[,;\n]+/).map((p) => p.trim())) {
    if (!part) continue
    const ends = part
      .replace(/mm$/, '')
      .split(/\s*[–—-]\s*/)
      .map(Number)
    if (ends.some((v) => !(v >= 1)) || ends.length > 2) {
      wrong.value = `“${part}” is neither a focal length such as 35 nor a zoom such as 24–70.`
      return
    }
    if (ends.length === 2) zooms.push([ends[0]!, ends[1]!])
    else primes.push(ends[0]!)
  }
  primes.sort((a, b) => a - b)
  const args = { name: name.value, primes, zooms, squeeze: squeeze.value }
  const [made] = id.value ? [id.value] : scene.make('kits', 'kitPut', args)
  if (id.value && !scene.run('kitPut', { ...args, id: id.value })) return
  if (!made) return
  emit('use', made)
  emit('close')
}
function remove() {
  if (scene.run('remove', { collection: 'kits', ids: [id.value] })) id.value = Object.keys(scene.doc.kits)[0] ?? ''
}
</script>
<template>
  <el-dialog :model-value="true" title="Lens kits" width="420" @close="emit('close')">
    <label class="field"
      >Kit
      <el-select v-model="id" size="small" aria-label="Kit" :empty-values="[null, undefined]">
        <el-option v-for="(k, key) in scene.doc.kits" :key="key" :value="key" :label="k.name" />
        <el-option value="" label="a new kit" />
      </el-select>
    </label>
    <label class="field">Name <el-input v-model="name" size="small" aria-label="Kit name" /></label>
    <label class="field"
      >Lenses
      <el-input
        v-model="lenses"
        type="textarea"
        :rows="3"
        aria-label="Lenses of the kit"
        placeholder="18, 25, 35, 50, 24–70"
      />
    </label>
    <label class="field"
      >Squeeze
      <el-select v-model="squeeze" size="small" aria-label="Squeeze of the kit">
        <el-option v-for="s in [1, 1.33, 1.8, 2]" :key="s" :value="s" :label="`${s}×`" />
      </el-select>
    </label>
    <p v-if="wrong" role="alert" class="wrong">{{ wrong }}</p>
    <template #footer>
      <button v-if="id" class="act" @click="remove">Remove the kit</button>
      <button class="act primary" @click="save">Use this kit</button>
    </template>
  </el-dialog>
</template>
<style scoped>
.field {
  display: grid;
  grid-template-columns: 70px 1fr;
  gap: 8px;
  align-items: center;
  margin-bottom: 8px;
}
.wrong {
  color: var(--warning);
}
</style>
