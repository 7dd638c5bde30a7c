<script setup lang="ts">
// What is delivered and how: the recipe, the order, and what comes of them.
import { ElMessage } from 'element-plus'
import { computed, ref } from 'vue'
import { useLibrary } from '@/stores/library'
import { usePlayhead } from '@/stores/playhead'
import { useScene } from '@/stores/scene'
import { useAlternates } from '@/stores/alternates'
import { useTurnover, type Moment } from '@/stores/turnover'
import { rateName } from '@/ui/rates'
import NumberField from '@/ui/NumberField.vue'
import { sentence } from '@/ui/sentence'
import RecipeDialog from './RecipeDialog.vue'
import { bytesOf, packs, secondsOf, timeOf } from './recipes'

const scene = useScene()
const head = usePlayhead()
const turnover = useTurnover()
const alternates = useAlternates()
const library = useLibrary()
const starting = ref(false)
const editing = ref(false)
const recipe = computed(() => turnover.recipe)
const planned = computed(() => turnover.planned)
const made = computed(() => ('error' in planned.value ? null : planned.value))
const pixels = computed(() => made.value?.pixels ?? 0)
const summary = computed(() => {
  const r = recipe.value
  return [
    packs[r.pack].name,
    r.quality,
    r.scale && r.scale !== 1 ? `${Math.round(r.scale * 100)} %` : '',
    r.rate ? `${rateName(r.rate)} f/s` : '',
    r.head || r.tail ? `${r.head ?? 0} before, ${r.tail ?? 0} after` : '',
    r.joined ? 'with its joins' : 'clean of its neighbours',
    r.sound ? 'with sound' : 'silent',
    r.lines === 'picture' ? 'lines in the picture' : r.lines === 'file' ? 'lines in a file' : '',
    r.slate ? `slate of ${r.slate}` : '',
    r.burns?.length ? `${r.burns.length} burn-ins` : '',
    r.mask ? `masked to ${r.mask.aspect.toFixed(2)}:1` : '',
    r.passes?.length ? `${r.passes.length} passes` : '',
  ]
    .filter(Boolean)
    .join(' · ')
})
const words = computed(() => {
  const n = turnover.order.shots?.length ?? 0
  const files = made.value?.count ?? 0
  if (n) return `Deliver ${n} chosen${files === n ? '' : ` (${files} files)`}`
  const shots = scene.cut.shots.length
  if (files === shots || !made.value) return `Deliver all ${shots} shots`
  return `Deliver ${files} ${files === 1 ? 'file' : 'files'}`
})
const moments: { value: Moment; label: string }[] = [
  { value: 'first', label: 'first' },
  { value: 'middle', label: 'middle' },
  { value: 'last', label: 'last' },
]
const assemblies = computed(() =>
  Object.entries(scene.doc.assemblies)
    .map(([id, a]) => ({ id, ...a }))
    .sort((a, b) => (a.order ?? 0) - (b.order ?? 0)),
)
/** Cameras over one stretch: that of the loop when it is one of the story, or all of it. */
function stretch(kind: string) {
  const loop = head.loop ? head.marked.story : null
  const { story } = scene.doc.settings
  turnover.over = kind === 'used' ? null : { in: loop?.in ?? story.in, out: loop?.out ?? story.out }
}
async function deliver() {
  starting.value = true
  try {
    await turnover.deliver()
  } catch (e) {
    ElMessage({ message: sentence((e as Error).message), type: 'warning', showClose: true, duration: 6000 })
  }
  starting.value = false
}
</script>
<template>
  <section aria-label="What is delivered" class="order">
    <div class="line">
      <el-select
        :model-value="turnover.known.recipe.name"
        size="small"
        aria-label="Recipe"
        @change="turnover.name = String($event)"
      >
        <el-option v-for="r in turnover.recipes" :key="r.id + r.recipe.name" :value="r.recipe.name">
          <span>{{ r.recipe.name }}</span>
          <span class="dim from">{{ r.id ? 'of the production' : '' }}</span>
        </el-option>
      </el-select>
      <button class="act" @click="editing = true">Edit…</button>
    </div>
    <p class="dim said">{{ summary }}</p>
    <p v-if="library.failure" class="why">
      {{ library.failure }} The recipes of the production are not here.
      <button class="link" @click="library.load()">Try again</button>
    </p>
    <h3>What</h3>
    <div class="ticks">
      <el-checkbox v-model="turnover.each" size="small" label="each shot" />
      <el-checkbox v-model="turnover.whole" size="small" label="the whole cut" />
      <el-checkbox
        v-model="turnover.cameras"
        size="small"
        label="cameras by themselves"
        title="Of each camera what the cut uses of it, with handles, or one stretch of the story; whole and without cuts"
      />
    </div>
    <div v-if="turnover.cameras" class="pair cameras">
      <el-select
        v-model="turnover.only"
        multiple
        collapse-tags
        size="small"
        placeholder="all cameras"
        aria-label="Cameras by themselves"
      >
        <el-option
          v-for="c in scene.cameras.filter((c) => !c.camera.archived)"
          :key="c.id"
          :value="c.id"
          :label="`${c.camera.number} ${c.node.name}`"
        />
      </el-select>
      <el-select :model-value="turnover.over ? 'stretch' : 'used'" size="small" aria-label="Over" @change="stretch">
        <el-option value="used" label="what is used" />
        <el-option value="stretch" label="one stretch" />
      </el-select>
      <template v-if="turnover.over">
        <NumberField
          label="from"
          :digits="0"
          :step="1"
          :value="turnover.over.in"
          @change="turnover.over = { ...turnover.over, in: Math.round($event) }"
        />
        <NumberField
          label="to"
          :digits="0"
          :step="1"
          :value="turnover.over.out"
          @change="turnover.over = { ...turnover.over, out: Math.round($event) }"
        />
      </template>
    </div>
    <div class="ticks">
      <span class="dim">stills</span>
      <el-checkbox-group v-model="turnover.stills" size="small">
        <el-checkbox v-for="m in moments" :key="m.value" :value="m.value" :label="m.label" />
      </el-checkbox-group>
      <el-checkbox
        v-model="turnover.portraits"
        size="small"
        label="each camera"
        title="A picture of each camera, where the cut sees it first; also of those that come later, when it is delivered again"
      />
      <el-checkbox v-model="turnover.marked" size="small" label="each ▷ marker" />
    </div>
    <template v-if="turnover.allFormats.length > 1">
      <h3>Formats</h3>
      <el-checkbox-group
        :model-value="turnover.theFormats"
        size="small"
        class="ticks"
        @update:model-value="turnover.formats = $event as string[]"
      >
        <el-checkbox
          v-for="f in turnover.allFormats"
          :key="f.id"
          :value="f.id"
          :label="f.name"
          :title="`${f.width} × ${f.height}`"
        />
      </el-checkbox-group>
    </template>
    <template v-if="alternates.all.length">
      <h3>Alternates</h3>
      <el-checkbox-group
        :model-value="turnover.theAlternates"
        size="small"
        class="ticks"
        aria-label="Alternates"
        @update:model-value="turnover.alternates = $event as string[]"
      >
        <el-checkbox value="" label="the scene" />
        <el-checkbox v-for="a in alternates.all" :key="a.id" :value="a.id" :label="a.name" />
      </el-checkbox-group>
    </template>
    <template v-if="assemblies.length > 1">
      <h3>Assemblies</h3>
      <el-checkbox-group
        :model-value="turnover.theAssemblies"
        size="small"
        class="ticks"
        @update:model-value="turnover.assemblies = $event as string[]"
      >
        <el-checkbox v-for="a in assemblies" :key="a.id" :value="a.id" :label="a.name" />
      </el-checkbox-group>
    </template>
    <el-checkbox
      v-model="turnover.changed"
      size="small"
      label="only what has changed since"
      title="What was delivered like this and would have the same frames is left out"
    />
    <p v-if="!made" role="alert" class="why">{{ sentence((planned as { error: string }).error) }}</p>
    <template v-else>
      <dl class="figures">
        <dt>Frames</dt>
        <dd>{{ made.frames }} at {{ rateName(recipe.rate ?? scene.doc.settings.rate) }}</dd>
        <dt>About</dt>
        <dd>{{ timeOf(secondsOf(pixels, recipe)) }}, {{ bytesOf(pixels, recipe) }}</dd>
      </dl>
      <p class="name mono" :title="made.files.map((f) => f.path).join('\n')">
        {{ made.files[0]?.path }}<template v-if="made.count > 1"> …</template>
      </p>
    </template>
    <button class="act main wide" :disabled="starting || !made" @click="deliver">{{ words }}</button>
    <RecipeDialog v-if="editing" @close="editing = false" />
  </section>
</template>
<style scoped>
.order {
  padding: 2px 10px 12px;
}
.line {
  display: flex;
  align-items: center;
  gap: 6px;
}
.line .act {
  height: 24px;
}
.cameras {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 6px 8px;
  padding-left: 18px;
}
.said {
  margin: 6px 0 0;
  font-size: 12px;
  line-height: 1.45;
}
.ticks {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 0 14px;
}
.ticks :deep(.el-checkbox) {
  margin-right: 0;
}
.ticks .dim {
  font-size: 12px;
}
.ticks :deep(.el-checkbox-group) {
  display: flex;
  gap: 0 12px;
}
.from {
  margin-left: 12px;
  font-size: 11.5px;
}
.name {
  margin: 6px 0 10px;
  color: var(--dim);
  font-size: 11px;
  overflow-wrap: anywhere;
}
.mono {
  font-family: var(--font-mono);
}
.why {
  color: var(--warning);
  font-size: 12px;
}
.wide {
  width: 100%;
  justify-content: center;
}
</style>
