<script setup lang="ts">
// How a shot begins: a cut, or a join with its length and its place on the seam.
// Handles that lack are named before, and given on demand.
import { computed, ref, watch } from 'vue'
import { core, type Join } from '@/core/bridge'
import { useCutting } from '@/stores/cutting'
import { useScene } from '@/stores/scene'
import NumberField from '@/ui/NumberField.vue'

const props = defineProps<{ shot: string }>()
const scene = useScene()
const cutting = useCutting()
const s = computed(() => scene.doc.shots[props.shot])
const join = computed(() => s.value?.join)
const kinds = ['cut', 'dissolve', 'dip', 'travel'] as const
const kind = ref<'cut' | Join['kind']>('cut')
const frames = ref(16)
const align = ref('centre')
const color = ref('#000000')
const ease = ref<NonNullable<Join['ease']>>('soft')
const rest = ref(0)
watch(
  [() => props.shot, join],
  ([, j]) => {
    kind.value = j?.kind ?? 'cut'
    if (!j) return
    frames.value = j.before + j.after
    align.value = j.after === 0 ? 'before' : j.before === 0 ? 'after' : 'centre'
    color.value = j.color ?? color.value
    ease.value = j.ease ?? ease.value
    rest.value = j.rest ?? 0
  },
  { immediate: true },
)
let known: ReturnType<typeof core.joinLack> = null
const lack = computed(() => {
  if (cutting.pair) return known // asked again when the drag is over
  void scene.changes
  return (known = core.joinLack(props.shot, kind.value === 'cut' ? 'dissolve' : kind.value, frames.value, align.value))
})
const missing = computed(() => {
  const k = lack.value
  if (!k || kind.value === 'cut' || kind.value === 'dip') return ''
  return [
    k.tail ? `shot ${k.out} lacks ${k.tail} tail frames` : '',
    k.head ? `shot ${k.in} lacks ${k.head} head frames` : '',
  ]
    .filter(Boolean)
    .join(', ')
})
function apply(give = false) {
  const args =
    kind.value === 'cut'
      ? { id: props.shot }
      : {
          id: props.shot,
          kind: kind.value,
          frames: frames.value,
          align: align.value,
          ...(kind.value === 'dip' ? { color: color.value } : {}),
          ...(kind.value === 'travel'
            ? { ease: ease.value, rest: Math.min(rest.value, Math.max(0, frames.value - 2)) }
            : {}),
          give,
        }
  return scene.run('shotJoin', args)
}
function choose(k: (typeof kinds)[number]) {
  kind.value = k
  if (k === 'cut' || !missing.value) apply()
}
function change() {
  if (kind.value !== 'cut' && !missing.value) apply()
}
</script>
<template>
  <template v-if="lack">
    <h3>Begins with</h3>
    <div class="kinds" v-arrows role="radiogroup" aria-label="Join">
      <button v-for="k in kinds" :key="k" class="act" role="radio" :aria-checked="kind === k" @click="choose(k)">
        {{ k }}
      </button>
    </div>
    <template v-if="kind !== 'cut'">
      <NumberField
        label="Length"
        unit="f"
        :digits="0"
        :step="0.5"
        :rate="scene.rate"
        :value="frames"
        @change="((frames = Math.max(1, Math.round($event))), change())"
      />
      <label class="pick"
        >on the seam
        <select v-model="align" aria-label="Alignment" @change="change">
          <option value="centre">centred</option>
          <option value="before">ends there</option>
          <option value="after">begins there</option>
        </select></label
      >
      <label v-if="kind === 'dip'" class="pick"
        >colour <input v-model="color" type="color" aria-label="Colour of the dip" @change="change"
      /></label>
      <label v-if="kind === 'travel'" class="pick"
        >ease
        <select v-model="ease" aria-label="Ease of the travel" @change="change">
          <option value="soft">soft</option>
          <option value="even">even</option>
        </select></label
      >
      <NumberField
        v-if="kind === 'travel'"
        label="Rests half way"
        unit="f"
        :digits="0"
        :step="0.5"
        :rate="scene.rate"
        :value="rest"
        @change="((rest = Math.max(0, Math.round($event))), change())"
      />
      <div v-if="missing" class="lack" role="status">
        {{ missing }}
        <div class="row">
          <button class="act main" @click="apply(true)">Give them</button>
        </div>
      </div>
    </template>
  </template>
</template>
<style scoped>
.kinds {
  display: grid;
  grid-template-columns: repeat(4, 1fr);
  gap: 2px;
  margin-bottom: 4px;
}
.kinds .act {
  justify-content: center;
  padding: 0;
}
.lack {
  margin-top: 6px;
  padding: 6px 8px;
  border-left: 3px solid var(--warning);
  border-radius: 4px;
  background: var(--raised);
  font-size: 12px;
}
.lack .row {
  margin-top: 6px;
}
</style>
