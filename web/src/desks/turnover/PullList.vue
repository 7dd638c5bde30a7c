<script setup lang="ts">
// What the cut needs of each camera, with handles, and what that saves.
import { Download } from '@lucide/vue'
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { core } from '@/core/bridge'
import { useScene } from '@/stores/scene'
import { useTurnover } from '@/stores/turnover'
import CameraBadge from '@/ui/CameraBadge.vue'
import { save } from '@/ui/save'
import { sentence } from '@/ui/sentence'

const scene = useScene()
const turnover = useTurnover()
const asked = computed(() => {
  const { head, tail } = turnover.recipe
  return [turnover.theAssemblies, head ?? 0, tail ?? 0] as const
})
const list = computed(() => {
  void scene.changes
  return core.pulls(...asked.value)
})
const saved = computed(() => 1 - list.value.frames / list.value.throughout)
const code = (frame: number) => core.timecode('story', frame)
const called = (ending: string) => `${scene.doc.settings.title} pull list${ending}`
const asCSV = () => save(called('.csv'), 'text/csv', core.pullTable(...asked.value))
const starting = ref(false)
/** Delivers of each camera what the cut needs, unless it is there already. */
async function missing() {
  starting.value = true
  try {
    await turnover.deliverPulls(list.value.cameras.map((c) => c.camera))
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true, duration: 6000 })
  }
  starting.value = false
}
/** Pages to print, of what the server has of the scene. */
const sheet = computed(() => {
  const [assemblies, head, tail] = asked.value
  return `/api/scenes/${scene.id}/pulls?assembly=${assemblies.join()}&head=${head}&tail=${tail}&alternate=${scene.alternate}`
})
const asJSON = () => save(called('.json'), 'application/json', JSON.stringify(list.value, null, 2))
</script>
<template>
  <div class="pull">
    <header class="head">
      <span class="still">Pull list</span>
      <span v-if="saved > 0" class="dim still" :title="`${list.frames} frames instead of ${list.throughout}`"
        >{{ Math.round(100 * saved) }} % saved</span
      >
      <span class="grow"></span>
      <button
        class="act"
        :disabled="!list.cameras.length || starting"
        title="Each camera over what is needed of it, by the recipe; what is there already and would be the same is left out"
        @click="missing"
      >
        Deliver what is missing
      </button>
      <a v-if="list.cameras.length" class="act" :href="sheet" download title="Pages to print"
        ><Download :size="14" /> PDF</a
      >
      <button class="act" @click="asCSV"><Download :size="14" /> CSV</button>
      <button class="act" @click="asJSON"><Download :size="14" /> JSON</button>
    </header>
    <div class="scrolls">
      <table v-if="list.cameras.length">
        <thead>
          <tr>
            <th>Camera</th>
            <th class="r">Story in</th>
            <th class="r">Story out</th>
            <th class="r">Frames</th>
            <th>From</th>
            <th>To</th>
          </tr>
        </thead>
        <tbody v-for="n in list.cameras" :key="n.camera">
          <tr v-for="(r, i) in n.ranges" :key="r.in">
            <td>
              <span v-if="!i" class="cam"
                ><CameraBadge
                  :number="n.number"
                  :color="scene.doc.nodes[n.camera]?.camera?.color ?? '#888'"
                  :size="18"
                />{{ n.name }}</span
              >
            </td>
            <td class="r mono">{{ r.in }}</td>
            <td class="r mono">{{ r.out }}</td>
            <td class="r mono">{{ r.out - r.in }}</td>
            <td class="mono story">{{ code(r.in) }}</td>
            <td class="mono story">{{ code(r.out) }}</td>
          </tr>
        </tbody>
      </table>
      <div v-else class="empty">
        <p>No camera is needed yet.</p>
        <p class="dim">Put one on air in Splice.</p>
      </div>
    </div>
  </div>
</template>
<style scoped>
.pull {
  display: flex;
  flex-direction: column;
  flex: 1;
  min-height: 0;
}
.head {
  border-bottom: 1px solid var(--line);
}
.still {
  white-space: nowrap;
}
.grow {
  flex: 1;
}
.scrolls {
  flex: 1;
  overflow-y: auto;
}
table {
  width: 100%;
  border-collapse: collapse;
  font-size: 12.5px;
}
th {
  padding: 4px 8px;
  color: var(--dim);
  font: 11px var(--font-condensed);
  text-align: left;
}
td {
  height: 26px;
  padding: 0 8px;
}
tbody > tr:first-child > td {
  border-top: 1px solid var(--line);
}
.r {
  text-align: right;
}
.mono {
  font: 11.5px var(--font-mono);
}
.cam {
  display: flex;
  align-items: center;
  gap: 6px;
}
</style>
