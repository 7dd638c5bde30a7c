<script setup lang="ts">
// What can be done with things as a whole: copies, mirror images, letting down,
// groups, and what they hang on.
import { useTip } from '@/stores/keys'
import { computed, ref } from 'vue'
import type { Vec3 } from '@/core/bridge'
import { usePlayhead } from '@/stores/playhead'
import { useArranging } from '@/stores/arranging'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'
import { useSubjects } from '../useSubjects'

const tip = useTip()

const props = defineProps<{ nodes: string[] }>()
const scene = useScene()
const arranging = useArranging()
const head = usePlayhead()
const { subjects } = useSubjects()
const first = computed(() => scene.doc.nodes[props.nodes[0]!])
const attached = computed(() => scene.doc.nodes[first.value?.parent ?? ''])
const joint = ref('')
const joints = ['', 'hand.right', 'hand.left', 'head', 'chest', 'pelvis']
const args = (more: object = {}) => ({ ids: props.nodes, frame: head.story, ...more })
const copies = ref(1)
const every = ref<Vec3>([1, 0, 0])
const pan = ref(0)
function attach(to: string) {
  const j = scene.doc.nodes[to]?.cast ? joint.value : ''
  if (to) scene.run('attach', args({ to, joint: j }))
}
</script>
<template>
  <h3>Arrange</h3>
  <div class="row">
    <button class="act" title="Let down onto what lies under it" @click="arranging.dropDown(nodes)">Set down</button>
    <button class="act" title="Mirror across X" @click="scene.run('mirror', args({ axis: 0 }))">Mirror X</button>
    <button class="act" title="Mirror across Z" @click="scene.run('mirror', args({ axis: 2 }))">Mirror Z</button>
    <button v-if="first?.kind === 'group' && nodes.length === 1" class="act" @click="arranging.ungroup(nodes[0]!)">
      Ungroup
    </button>
    <button v-else class="act" :title="tip('Group', 'group the selection')" @click="arranging.group(nodes)">
      Group
    </button>
  </div>
  <details>
    <summary>Copies</summary>
    <NumberField
      label="How many"
      :digits="0"
      :step="0.1"
      :value="copies"
      @drag="copies = Math.max(1, Math.round($event))"
      @cancel="scene.cancel()"
      @change="copies = Math.max(1, Math.round($event))"
    />
    <NumberField
      v-for="(a, i) in ['X', 'Y', 'Z']"
      :key="a"
      :label="`${a} from each`"
      unit="m"
      :value="every[i]!"
      @drag="every[i] = $event"
      @cancel="scene.cancel()"
      @change="every[i] = $event"
    />
    <NumberField
      label="Turned by"
      unit="°"
      :digits="0"
      :step="1"
      :value="pan"
      @drag="pan = $event"
      @cancel="scene.cancel()"
      @change="pan = $event"
    />
    <div class="row">
      <button class="act" @click="arranging.duplicate(nodes, { count: copies, by: every, pan })">
        Make {{ copies }} {{ copies === 1 ? 'copy' : 'copies' }}
      </button>
    </div>
  </details>
  <h3>Attached to</h3>
  <label class="pick"
    >Hangs on
    <select
      :value="first?.parent ?? ''"
      aria-label="Attached to"
      @change="attach(($event.target as HTMLSelectElement).value)"
    >
      <option value="">nothing</option>
      <option v-for="s in subjects.filter((s) => !nodes.includes(s.id))" :key="s.id" :value="s.id">{{ s.name }}</option>
    </select></label
  >
  <label class="pick"
    >Joint
    <select v-model="joint" aria-label="Joint">
      <option v-for="j in joints" :key="j" :value="j">
        {{ j ? j.split('.').reverse().join(' ') : 'the whole body' }}
      </option>
    </select></label
  >
  <div v-if="attached" class="row">
    <button class="act" @click="scene.run('detach', args())">Detach from {{ attached.name }}</button>
  </div>
</template>
<style scoped>
details {
  margin-top: 8px;
}
summary {
  color: var(--dim);
  font-size: 12px;
  cursor: pointer;
}
</style>
