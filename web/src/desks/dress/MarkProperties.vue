<script setup lang="ts">
// Marks that one thing or several carry: hidden, locked, a colour in lists, and
// which shots see them.
import { computed } from 'vue'
import { useScene } from '@/stores/scene'

const props = defineProps<{ nodes: string[] }>()
const scene = useScene()
const first = computed(() => scene.doc.nodes[props.nodes[0]!])
const what = computed(() => (props.nodes.length === 1 ? first.value?.name : `${props.nodes.length} things`))
const set = (merge: object, verb: string) =>
  scene.run('setMany', { collection: 'nodes', ids: props.nodes, merge, label: `${verb} ${what.value}` })
const only = computed(() => first.value?.shooting?.only ?? [])
const shots = computed(() =>
  scene.cut.shots.flatMap(({ id }) => {
    const s = scene.doc.shots[id]
    return s ? [{ id, title: `${s.number} ${s.name ?? ''}` }] : []
  }),
)
function see(shot: string) {
  const next = only.value.includes(shot) ? only.value.filter((x) => x !== shot) : [...only.value, shot]
  set({ shooting: next.length ? { only: next, hidden: null } : null }, 'choose the shots of')
}
</script>
<template>
  <template v-if="first">
    <h3>Shown and locked</h3>
    <div class="row">
      <button
        class="act"
        :aria-pressed="!!first.hidden"
        @click="set({ hidden: first.hidden ? null : true }, first.hidden ? 'show' : 'hide')"
      >
        {{ first.hidden ? 'Show' : 'Hide' }}
      </button>
      <button
        class="act"
        :aria-pressed="!!first.locked"
        @click="set({ locked: first.locked ? null : true }, first.locked ? 'unlock' : 'lock')"
      >
        {{ first.locked ? 'Unlock' : 'Lock' }}
      </button>
      <input
        type="color"
        aria-label="Colour in lists"
        title="Colour of its mark in lists and on the plan"
        :value="first.tint ?? '#8fb3c9'"
        @change="set({ tint: ($event.target as HTMLInputElement).value }, 'mark')"
      />
    </div>
    <label class="check"
      ><input
        type="checkbox"
        :checked="!!first.shooting?.hidden"
        @change="
          set(
            { shooting: first!.shooting?.hidden ? null : { hidden: true } },
            first!.shooting?.hidden ? 'shoot' : 'leave out while shooting',
          )
        "
      />
      Hide while shooting</label
    >
    <details v-if="shots.length && !first.shooting?.hidden">
      <summary>
        {{ only.length ? `Only in ${only.length} ${only.length === 1 ? 'shot' : 'shots'}` : 'Only in some shots' }}
      </summary>
      <label v-for="s in shots" :key="s.id" class="check"
        ><input type="checkbox" :checked="only.includes(s.id)" @change="see(s.id)" /> {{ s.title }}</label
      >
    </details>
  </template>
</template>
<style scoped>
.row {
  align-items: center;
}
details {
  margin-top: 8px;
}
summary {
  color: var(--dim);
  font-size: 12px;
  cursor: pointer;
}
</style>
