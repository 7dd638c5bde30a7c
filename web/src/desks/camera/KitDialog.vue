<script setup lang="ts">
// The lens kits of a scene, those of its production among them; or of a library.
import { computed, ref, watch } from 'vue'
import { useLibrary } from '@/stores/library'
import { useScene } from '@/stores/scene'
import { lensesOf, readLenses } from './kits'

/** In a library, kits are only put together; in a scene, one is chosen too. */
const props = defineProps<{ first: string; shelf?: boolean }>()
const emit = defineEmits<{ close: []; use: [id: string] }>()
const scene = useScene()
const library = useLibrary()
const id = ref(props.first)
const name = ref('')
const lenses = ref('')
const squeeze = ref(1)
const wrong = ref('')
const busy = ref(false)
const kit = computed(() => scene.doc.kits[id.value])
function read() {
  name.value = kit.value?.name ?? 'New kit'
  squeeze.value = kit.value?.squeeze || 1
  lenses.value = lensesOf(kit.value)
  wrong.value = ''
}
watch(id, read, { immediate: true })
const changed = computed(
  () =>
    name.value !== kit.value?.name ||
    squeeze.value !== (kit.value?.squeeze || 1) ||
    lenses.value !== lensesOf(kit.value),
)
function written() {
  const found = readLenses(lenses.value)
  wrong.value = found.wrong
  return {
    name: name.value.trim(),
    primes: found.primes,
    zooms: found.zooms,
    ...(squeeze.value === 1 ? {} : { squeeze: squeeze.value }),
  }
}
function done(made: string) {
  emit('use', made)
  emit('close')
}
/** Keeps the kit in this document: in a scene it is the scene's own. */
function keepHere() {
  const args = written()
  if (wrong.value) return
  const made = id.value
    ? scene.run('kitPut', { ...args, id: id.value }) && id.value
    : scene.make('kits', 'kitPut', args)[0]
  if (made) done(made)
}
/** Keeps the kit in the production: all its scenes take it. */
async function share() {
  const args = written()
  if (wrong.value || busy.value) return
  busy.value = true
  const made = id.value || crypto.randomUUID()
  const put = await library.putKit(made, args)
  busy.value = false
  if (put) done(made)
}
function remove() {
  if (scene.run('remove', { collection: 'kits', ids: [id.value] })) id.value = Object.keys(scene.doc.kits)[0] ?? ''
}
</script>
<template>
  <el-dialog :model-value="true" append-to-body title="Lens kits" width="460" @close="emit('close')">
    <label class="field"
      >Kit
      <el-select v-model="id" size="small" aria-label="Kit" :empty-values="[null, undefined]">
        <el-option
          v-for="(k, key) in scene.doc.kits"
          :key="key"
          :value="key"
          :label="shelf ? k.name : `${k.name}, ${k.shared ? 'of the production' : 'of this scene'}`"
        />
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
    <p v-if="!shelf && kit?.shared && changed" class="note">
      This kit is of the production. Changed here alone, it becomes this scene’s own.
    </p>
    <template #footer>
      <button v-if="id && !kit?.shared" class="act" @click="remove">Remove the kit</button>
      <template v-if="shelf">
        <button class="act main" @click="keepHere">{{ id ? 'Change the kit' : 'Make the kit' }}</button>
      </template>
      <template v-else>
        <button v-if="changed || !id" class="act" :disabled="busy" @click="keepHere">
          {{ id ? 'Change in this scene' : 'Make for this scene' }}
        </button>
        <button v-if="changed || !id || !kit?.shared" class="act" :disabled="busy" @click="share">
          {{ !id ? 'Make for all scenes' : kit?.shared ? 'Change in all scenes' : 'Give to all scenes' }}
        </button>
        <button v-if="id && !changed" class="act main" @click="done(id)">Use this kit</button>
      </template>
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
