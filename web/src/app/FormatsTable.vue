<script setup lang="ts">
// The picture shapes of a scene, or those that new scenes of a production begin with.
import { Trash2 } from '@lucide/vue'
import { computed } from 'vue'
import { core, type Format, type Merge, type Settings } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'

defineProps<{ deliver?: boolean }>()
const scene = useScene()
const settings = computed(() => scene.doc.settings)
const set = (merge: Merge<Settings>, label: string) =>
  scene.run('set', { collection: 'settings', id: 'settings', merge, label })
const offered = core.offered()
const spare = computed(() =>
  offered.shapes.filter((s) => !Object.values(scene.doc.formats).some((f) => f.name === s.name)),
)
const put = (id: string, change: Partial<Format>) =>
  scene.run('formatPut', { id, ...scene.doc.formats[id]!, ...change })
function renameFormat(id: string, e: Event) {
  const field = e.target as HTMLInputElement
  if (!put(id, { name: field.value.trim() })) field.value = scene.doc.formats[id]!.name
}
function add(name: string) {
  const shape = offered.shapes.find((s) => s.name === name) ?? { name: 'custom', width: 1280, height: 720 }
  scene.run('formatPut', { ...shape, deliver: true })
}
</script>
<template>
  <table aria-label="Formats">
    <thead>
      <tr>
        <th>Format</th>
        <th>Width</th>
        <th>Height</th>
        <th>Worked in</th>
        <th v-if="deliver">Delivered</th>
        <td></td>
      </tr>
    </thead>
    <tbody>
      <tr v-for="(f, id) in scene.doc.formats" :key="id">
        <td>
          <input
            v-typed
            class="text"
            :value="f.name"
            :aria-label="`Name of ${f.name}`"
            @change="renameFormat(String(id), $event)"
          />
        </td>
        <td>
          <NumberField
            label=""
            unit="px"
            :digits="0"
            :value="f.width"
            @change="put(String(id), { width: Math.round($event) })"
          />
        </td>
        <td>
          <NumberField
            label=""
            unit="px"
            :digits="0"
            :value="f.height"
            @change="put(String(id), { height: Math.round($event) })"
          />
        </td>
        <td>
          <input
            type="radio"
            :checked="settings.format === id"
            :aria-label="`Work in ${f.name}`"
            @change="set({ format: id }, `work in ${f.name}`)"
          />
        </td>
        <td v-if="deliver">
          <input
            type="checkbox"
            :checked="f.deliver || settings.format === id"
            :disabled="settings.format === id"
            :aria-label="`Deliver ${f.name}`"
            @change="put(String(id), { deliver: ($event.target as HTMLInputElement).checked })"
          />
        </td>
        <td>
          <button
            class="icon"
            :aria-label="`Remove ${f.name}`"
            :disabled="settings.format === id"
            @click="scene.run('formatRemove', { id })"
          >
            <Trash2 :size="14" />
          </button>
        </td>
      </tr>
    </tbody>
  </table>
  <div class="line">
    <button v-for="s in spare" :key="s.name" class="act" @click="add(s.name)">Add {{ s.name }}</button>
    <button class="act" @click="add('')">Add a custom one</button>
  </div>
</template>
<style scoped>
table {
  border-collapse: collapse;
}
th {
  color: var(--dim);
  font: 12px var(--font-condensed);
  text-align: left;
}
td {
  padding: 2px 6px 2px 0;
}
td .field {
  width: 104px;
}
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 8px;
}
.text {
  width: 100%;
  height: 26px;
  padding: 0 8px;
  border: 1px solid var(--line);
  border-radius: 4px;
  background: var(--raised);
  color: inherit;
  font: 12px var(--font);
}
</style>
